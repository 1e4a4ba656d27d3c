// Oscillators that add a block to two sides, as `wavesTwin.ts`, which says what their states hold.
import { loadPair, storePair } from './blocks.as';

/** Phases are whole numbers, 2^48 of them to a cycle: they come round by themselves. */
const CYCLE: f64 = 281474976710656;
const ROUND: u64 = 0xffffffffffff;
const PART: f64 = 1.0 / 1048576.0;

/** A table of 4096 samples, interpolated linearly. */
@inline
function tableAt(table: usize, phase: u64): f64 {
  const at = table + ((((phase >> 36) & 0xfff) as usize) << 2);
  const first = load<f32>(at) as f64;
  return first + (((phase >> 16) as i32) & 0xfffff) * PART * ((load<f32>(at, 4) as f64) - first);
}

/** The same for two phases at once. */
@inline
function tableAtTwo(table: usize, p: u64, q: u64): v128 {
  // A sample and the next of each, side by side.
  const atFirst = table + ((((p >> 36) & 0xfff) as usize) << 2);
  const atSecond = table + ((((q >> 36) & 0xfff) as usize) << 2);
  const pairs = v128.load64_lane(atSecond, v128.load64_zero(atFirst), 1);
  const first = f64x2.promote_low_f32x4(v128.shuffle<i32>(pairs, pairs, 0, 2, 0, 2));
  const second = f64x2.promote_low_f32x4(v128.shuffle<i32>(pairs, pairs, 1, 3, 1, 3));
  const parts = i64x2.replace_lane(i64x2.splat((p >> 16) & 0xfffff), 1, (q >> 16) & 0xfffff);
  const part = f64x2.mul(f64x2.convert_low_i32x4_s(v128.shuffle<i32>(parts, parts, 0, 2, 0, 2)), f64x2.splat(PART));
  return f64x2.add(first, f64x2.mul(part, f64x2.sub(second, first)));
}

@inline
function phaseOf(cycles: f64): u64 {
  return (cycles * CYCLE) as i64 as u64;
}

@inline
function addTo(block: usize, i: i32, x: f64): void {
  const at = block + ((i as usize) << 3);
  store<f64>(at, load<f64>(at) + x);
}

@inline
function waveAt(near: usize, far: usize, blend: f64, p: u64, q: u64): v128 {
  const x = tableAtTwo(near, p, q);
  if (blend == 0) return x;
  return f64x2.add(x, f64x2.mul(f64x2.splat(blend), f64x2.sub(tableAtTwo(far, p, q), x)));
}

/** Two frames of a line that moves by `step` with each of them. */
@inline
function lineAt(first: f64, step: f64, n: v128): v128 {
  return f64x2.add(f64x2.splat(first), f64x2.mul(n, f64x2.splat(step)));
}

export function addWave(
  state: usize,
  near: usize,
  far: usize,
  blend: f64,
  offset: i32,
  frames: i32,
  left: usize,
  right: usize,
): void {
  let p = phaseOf(load<f64>(state));
  const step = phaseOf(load<f64>(state, 24));
  let by = phaseOf(load<f64>(state, 16)) + (offset as u64) * step;
  const width = load<f64>(state, 32);
  const widthStep = phaseOf(load<f64>(state, 40));
  let apart = phaseOf(width) + (offset as u64) * widthStep;
  const toLeft = load<f64>(state, 48);
  const leftStep = load<f64>(state, 56);
  const toRight = load<f64>(state, 64);
  const rightStep = load<f64>(state, 72);
  const pulse = width >= 0;
  let n = f64x2.add(f64x2.splat(offset as f64), f64x2(0, 1));
  for (let i = 0; i < frames; i += 2) {
    const both = i + 1 < frames;
    const q = p + by;
    let x = waveAt(near, far, blend, p, q);
    if (pulse) {
      x = f64x2.sub(x, waveAt(near, far, blend, p + apart, q + apart + widthStep));
      apart += 2 * widthStep;
    }
    const at = (i as usize) << 3;
    const l = f64x2.mul(x, lineAt(toLeft, leftStep, n));
    const r = f64x2.mul(x, lineAt(toRight, rightStep, n));
    storePair(left + at, f64x2.add(loadPair(left + at, both), l), both);
    storePair(right + at, f64x2.add(loadPair(right + at, both), r), both);
    p = both ? q + by + step : q;
    by += 2 * step;
    n = f64x2.add(n, f64x2.splat(2));
  }
  store<f64>(state, ((p & ROUND) as f64) / CYCLE);
}

export function addModulated(
  state: usize,
  sine: usize,
  ratio: f64,
  offset: i32,
  frames: i32,
  left: usize,
  right: usize,
): void {
  let p = phaseOf(load<f64>(state));
  let q = phaseOf(load<f64>(state, 8));
  const increment = load<f64>(state, 16);
  const incrementStep = load<f64>(state, 24);
  const step = phaseOf(incrementStep);
  let by = phaseOf(increment) + (offset as u64) * step;
  const otherStep = phaseOf(ratio * incrementStep);
  let otherBy = phaseOf(ratio * increment) + (offset as u64) * otherStep;
  const depth = load<f64>(state, 32);
  const depthStep = load<f64>(state, 40);
  const toLeft = load<f64>(state, 48);
  const leftStep = load<f64>(state, 56);
  const toRight = load<f64>(state, 64);
  const rightStep = load<f64>(state, 72);
  let n = offset as f64;
  for (let i = 0; i < frames; i++, n += 1) {
    const x = tableAt(sine, p + phaseOf((depth + n * depthStep) * tableAt(sine, q)));
    addTo(left, i, x * (toLeft + n * leftStep));
    addTo(right, i, x * (toRight + n * rightStep));
    p += by;
    q += otherBy;
    by += step;
    otherBy += otherStep;
  }
  store<f64>(state, ((p & ROUND) as f64) / CYCLE);
  store<f64>(state, ((q & ROUND) as f64) / CYCLE, 8);
}

/** Adds two blocks to two others at a gain that moves by `step` with each frame, and leaves nothing in them. */
export function spendSides(
  outLeft: usize,
  outRight: usize,
  left: usize,
  right: usize,
  gain: f64,
  step: f64,
  offset: i32,
  frames: i32,
): void {
  let n = f64x2.add(f64x2.splat(offset as f64), f64x2(0, 1));
  const nothing = f64x2.splat(0);
  for (let i = 0; i < frames; i += 2) {
    const both = i + 1 < frames;
    const factor = lineAt(gain, step, n);
    const at = (i as usize) << 3;
    const l = f64x2.mul(factor, loadPair(left + at, both));
    const r = f64x2.mul(factor, loadPair(right + at, both));
    storePair(outLeft + at, f64x2.add(loadPair(outLeft + at, both), l), both);
    storePair(outRight + at, f64x2.add(loadPair(outRight + at, both), r), both);
    storePair(left + at, nothing, both);
    storePair(right + at, nothing, both);
    n = f64x2.add(n, f64x2.splat(2));
  }
}

/** A word of SplitMix32 as a number from -1 to 1. */
@inline
function noiseAt(counter: u32): f64 {
  let z = counter;
  z = (z ^ (z >> 16)) * 0x85ebca6b;
  z = (z ^ (z >> 13)) * 0xc2b2ae35;
  return ((z ^ (z >> 16)) as i32 as f64) / 2147483648;
}

export function addNoise(state: usize, counter: u32, offset: i32, frames: i32, left: usize, right: usize): void {
  const common = load<f64>(state, 48);
  const commonStep = load<f64>(state, 56);
  const own = load<f64>(state, 64);
  const ownStep = load<f64>(state, 72);
  let n = offset as f64;
  for (let i = 0; i < frames; i++, n += 1) {
    const middle = (common + n * commonStep) * noiseAt(counter++);
    const side = (own + n * ownStep) * noiseAt(counter++);
    addTo(left, i, middle + side);
    addTo(right, i, middle - side);
  }
}
