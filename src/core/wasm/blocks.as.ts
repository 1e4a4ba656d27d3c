// Loops over blocks of doubles, two frames or both channels of one at a time.

/** The longest block in frames, as `LONGEST_BLOCK`. */
export const LONGEST: i32 = 512;

@inline
export function loadPair(at: usize, both: bool): v128 {
  return both ? v128.load(at) : v128.load64_zero(at);
}

@inline
export function storePair(at: usize, x: v128, both: bool): void {
  if (both) v128.store(at, x);
  else v128.store64_lane(at, x, 0);
}

/** One frame of two channels. */
@inline
export function loadFrame(left: usize, right: usize): v128 {
  return v128.load64_lane(right, v128.load64_zero(left), 1);
}

@inline
export function storeFrame(left: usize, right: usize, x: v128): void {
  v128.store64_lane(left, x, 0);
  v128.store64_lane(right, x, 1);
}

/** State without what is too small for the machine to be quick with it. */
@inline
export function settled(x: v128): v128 {
  return f64x2.sub(f64x2.add(x, f64x2.splat(TINY)), f64x2.splat(TINY));
}

/** Added to the input of a state and subtracted again, against denormal numbers. */
export const TINY: f64 = 1e-20;

const HEARD_KNEE: f64 = 1.5;
const HEARD_SPAN: f64 = 1.7 - 1.5;

/** As `guardHeard`. */
@inline
function guardHeard(x: v128): v128 {
  const magnitude = f64x2.abs(x);
  const loud = f64x2.gt(magnitude, f64x2.splat(HEARD_KNEE));
  if (!v128.any_true(loud)) return x;
  const span = f64x2.splat(HEARD_SPAN);
  const over = f64x2.div(f64x2.sub(magnitude, f64x2.splat(HEARD_KNEE)), span);
  const bent = f64x2.add(f64x2.splat(HEARD_KNEE), f64x2.div(f64x2.mul(span, over), f64x2.add(f64x2.splat(1), over)));
  const signed = v128.bitselect(f64x2.neg(bent), bent, f64x2.lt(x, f64x2.splat(0)));
  return v128.bitselect(signed, x, loud);
}

/**
 * Adds a stereo block to another: guarded, and louder by `lift` before that.
 * @param gains of each frame and side; 0 for the same gain in all frames
 * @param lift of each frame, 0 for none
 * @param sides of each frame how far the block is middle and side, 0 for not at all
 */
export function addHeard(
  left: usize,
  right: usize,
  outLeft: usize,
  outRight: usize,
  gainLeft: f64,
  gainRight: f64,
  gainsLeft: usize,
  gainsRight: usize,
  lift: usize,
  sides: usize,
  frames: i32,
): void {
  let first = f64x2.splat(gainLeft);
  let second = f64x2.splat(gainRight);
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const both = i + 1 < frames;
    let l = loadPair(left + at, both);
    let r = loadPair(right + at, both);
    if (lift) {
      const louder = loadPair(lift + at, both);
      l = f64x2.mul(l, louder);
      r = f64x2.mul(r, louder);
    }
    l = guardHeard(l);
    r = guardHeard(r);
    if (sides) {
      const middle = loadPair(sides + at, both);
      const first = f64x2.add(l, f64x2.mul(middle, r));
      r = f64x2.add(r, f64x2.mul(middle, f64x2.sub(l, f64x2.mul(f64x2.splat(2), r))));
      l = first;
    }
    if (gainsLeft) {
      first = loadPair(gainsLeft + at, both);
      second = loadPair(gainsRight + at, both);
    }
    storePair(outLeft + at, f64x2.add(loadPair(outLeft + at, both), f64x2.mul(l, first)), both);
    storePair(outRight + at, f64x2.add(loadPair(outRight + at, both), f64x2.mul(r, second)), both);
  }
}

/** Guards two blocks in place, each sample as `guardHeard`. */
export function guardSides(left: usize, right: usize, frames: i32): void {
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const both = i + 1 < frames;
    storePair(left + at, guardHeard(loadPair(left + at, both)), both);
    storePair(right + at, guardHeard(loadPair(right + at, both)), both);
  }
}

/** Middle and side of two blocks, each at a gain of its own, as left and right. */
export function widen(
  left: usize,
  right: usize,
  outLeft: usize,
  outRight: usize,
  middle: f64,
  side: f64,
  frames: i32,
): void {
  const middleGain = f64x2.splat(0.5 * middle);
  const sideGain = f64x2.splat(0.5 * side);
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const both = i + 1 < frames;
    const l = loadPair(left + at, both);
    const r = loadPair(right + at, both);
    const m = f64x2.mul(middleGain, f64x2.add(l, r));
    const s = f64x2.mul(sideGain, f64x2.sub(l, r));
    storePair(outLeft + at, f64x2.add(m, s), both);
    storePair(outRight + at, f64x2.sub(m, s), both);
  }
}

/** A block at a gain that moves by `step` with each frame, the first of which is `offset` frames from where it was told. */
export function scaleMoving(out: usize, block: usize, gain: f64, step: f64, offset: i32, frames: i32): void {
  const first = f64x2.splat(gain);
  const steps = f64x2.splat(step);
  let n = f64x2.add(f64x2.splat(offset as f64), f64x2(0, 1));
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const both = i + 1 < frames;
    const factor = f64x2.add(first, f64x2.mul(steps, n));
    storePair(out + at, f64x2.mul(factor, loadPair(block + at, both)), both);
    n = f64x2.add(n, f64x2.splat(2));
  }
}

/** A dry block of floats and a wet one of doubles, each at its gains, in the place of the dry one. */
export function blendFloats(dry: usize, wet: usize, dryGains: usize, wetGains: usize, frames: i32): void {
  let i = 0;
  for (; i + 2 <= frames; i += 2, dry += 8, wet += 16, dryGains += 16, wetGains += 16) {
    const kept = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(dry)), v128.load(dryGains));
    const sum = f64x2.add(kept, f64x2.mul(v128.load(wet), v128.load(wetGains)));
    v128.store64_lane(dry, f32x4.demote_f64x2_zero(sum), 0);
  }
  if (i == frames) return;
  store<f32>(dry, ((load<f32>(dry) as f64) * load<f64>(dryGains) + load<f64>(wet) * load<f64>(wetGains)) as f32);
}

/** Adds a block to another at a gain, or at one for each frame where `gains` is not 0. */
export function addScaled(out: usize, block: usize, gain: f64, gains: usize, frames: i32): void {
  let factor = f64x2.splat(gain);
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const both = i + 1 < frames;
    if (gains) factor = loadPair(gains + at, both);
    const sum = f64x2.add(loadPair(out + at, both), f64x2.mul(factor, loadPair(block + at, both)));
    storePair(out + at, sum, both);
  }
}

/** The same in another place: `out` becomes `first` at the gains plus `second` at `gain`. */
export function mixScaled(
  out: usize,
  first: usize,
  firstGain: f64,
  gains: usize,
  second: usize,
  gain: f64,
  frames: i32,
): void {
  let factor = f64x2.splat(firstGain);
  const other = f64x2.splat(gain);
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const both = i + 1 < frames;
    if (gains) factor = loadPair(gains + at, both);
    const sum = f64x2.add(f64x2.mul(loadPair(first + at, both), factor), f64x2.mul(other, loadPair(second + at, both)));
    storePair(out + at, sum, both);
  }
}

/** Loss of lows and highs by a one-pole filter each, for two channels: `state` holds by pairs the two memories and the two factors. */
export function narrow(state: usize, left: usize, right: usize, frames: i32): void {
  let high = v128.load(state);
  let low = v128.load(state, 16);
  const highFactor = v128.load(state, 32);
  const lowFactor = v128.load(state, 48);
  for (let i = 0; i < frames; i++, left += 8, right += 8) {
    const x = loadFrame(left, right);
    high = settled(f64x2.add(high, f64x2.mul(highFactor, f64x2.sub(x, high))));
    low = settled(f64x2.add(low, f64x2.mul(lowFactor, f64x2.sub(high, low))));
    storeFrame(left, right, f64x2.sub(high, low));
  }
  v128.store(state, high);
  v128.store(state, low, 16);
}

// Parts of `StateVariableFilter.process`: its output from the input and from both states.

@inline
function heardOfInput(input: v128, band: v128, low: v128, a2: v128, a3: v128): v128 {
  return f64x2.add(input, f64x2.add(f64x2.mul(band, a2), f64x2.mul(low, a3)));
}

@inline
function heardOfFirst(band: v128, low: v128, a1: v128, a2: v128): v128 {
  return f64x2.add(f64x2.mul(band, a1), f64x2.mul(low, a2));
}

@inline
function heardOfSecond(band: v128, low: v128, a2: v128, a3: v128): v128 {
  return f64x2.sub(f64x2.mul(low, f64x2.sub(f64x2.splat(1), a3)), f64x2.mul(band, a2));
}

@inline
function heard(x: v128, s1: v128, s2: v128, ofInput: v128, ofFirst: v128, ofSecond: v128): v128 {
  return f64x2.add(f64x2.mul(ofInput, x), f64x2.add(f64x2.mul(ofFirst, s1), f64x2.mul(ofSecond, s2)));
}

// Both states a frame on: b and d are of what comes in, c and e of what was there.

@inline
function nextFirst(x: v128, s1: v128, s2: v128, b: v128, c: v128): v128 {
  const sum = f64x2.add(f64x2.add(f64x2.mul(b, x), f64x2.splat(TINY)), f64x2.mul(c, s1));
  return f64x2.sub(f64x2.sub(sum, f64x2.mul(b, s2)), f64x2.splat(TINY));
}

@inline
function nextSecond(x: v128, s1: v128, s2: v128, b: v128, d: v128, e: v128): v128 {
  const sum = f64x2.add(f64x2.add(f64x2.mul(d, x), f64x2.splat(TINY)), f64x2.mul(b, s1));
  return f64x2.sub(f64x2.add(sum, f64x2.mul(e, s2)), f64x2.splat(TINY));
}

/**
 * As `StateVariableFilter.process`, for two channels.
 * @param state by pairs both integrators, a1, a2, a3, and what is heard of input, band and low
 */
export function filterPair(state: usize, left: usize, right: usize, frames: i32): void {
  filterFrames(state, left, right, frames, false, 0, 0, 0, 0, 0);
}

/** As `filterPair`, then `spendSides`. */
export function filterSpent(
  state: usize,
  outLeft: usize,
  outRight: usize,
  left: usize,
  right: usize,
  gain: f64,
  step: f64,
  offset: i32,
  frames: i32,
): void {
  filterFrames(state, left, right, frames, true, outLeft, outRight, gain, step, offset);
}

@inline
function filterFrames(
  state: usize,
  left: usize,
  right: usize,
  frames: i32,
  spends: bool,
  outLeft: usize,
  outRight: usize,
  gain: f64,
  step: f64,
  offset: i32,
): void {
  let s1 = v128.load(state);
  let s2 = v128.load(state, 16);
  const one = f64x2.splat(1);
  const two = f64x2.splat(2);
  const a1 = v128.load(state, 32);
  const a2 = v128.load(state, 48);
  const a3 = v128.load(state, 64);
  const band = v128.load(state, 96);
  const low = v128.load(state, 112);
  const b = f64x2.mul(two, a2);
  const c = f64x2.sub(f64x2.mul(two, a1), one);
  const d = f64x2.mul(two, a3);
  const e = f64x2.sub(one, d);
  const ofInput = heardOfInput(v128.load(state, 80), band, low, a2, a3);
  const ofFirst = heardOfFirst(band, low, a1, a2);
  const ofSecond = heardOfSecond(band, low, a2, a3);
  const nothing = f64x2.splat(0);
  for (let i = 0; i < frames; i++, left += 8, right += 8) {
    const x = loadFrame(left, right);
    const y = heard(x, s1, s2, ofInput, ofFirst, ofSecond);
    if (spends) {
      const factor = f64x2.splat(gain + ((offset + i) as f64) * step);
      const at = (i as usize) << 3;
      const sum = f64x2.add(loadFrame(outLeft + at, outRight + at), f64x2.mul(factor, y));
      storeFrame(outLeft + at, outRight + at, sum);
      storeFrame(left, right, nothing);
    } else {
      storeFrame(left, right, y);
    }
    const first = nextFirst(x, s1, s2, b, c);
    s2 = nextSecond(x, s1, s2, b, d, e);
    s1 = first;
  }
  v128.store(state, s1);
  v128.store(state, s2, 16);
}

/** Multiplies two blocks of an even length into a third, or adds their product to what is there. */
export function multiply(out: usize, first: usize, second: usize, frames: i32, add: bool): void {
  for (let i = 0; i < frames; i += 2) {
    const at = (i as usize) << 3;
    const product = f64x2.mul(v128.load(first + at), v128.load(second + at));
    v128.store(out + at, add ? f64x2.add(v128.load(out + at), product) : product);
  }
}

/** As `filterPair`, with coefficients that move: a step for each of the six pairs is added ahead of every frame. */
export function filterGliding(state: usize, steps: usize, left: usize, right: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, left += 8, right += 8) {
    for (let at: usize = 0; at < 96; at += 16) {
      v128.store(state + 32 + at, f64x2.add(v128.load(state + 32 + at), v128.load(steps + at)));
    }
    filterPair(state, left, right, 1);
  }
}

/** Bytes of a filter of a chain in `filterChain`'s room. */
const LINK: usize = 112;

/**
 * As `filterPair` for some filters one after the other, frame by frame, so that the machine can work on several at once.
 * @param states places of their states, as whole numbers of 32 bits
 * @param room for 14 doubles a filter, to work in
 */
export function filterChain(states: usize, count: i32, room: usize, left: usize, right: usize, frames: i32): void {
  const one = f64x2.splat(1);
  const two = f64x2.splat(2);
  const end = states + ((count as usize) << 2);
  for (let place = states, link = room; place < end; place += 4, link += LINK) {
    const state = load<u32>(place) as usize;
    const a1 = v128.load(state, 32);
    const a2 = v128.load(state, 48);
    const a3 = v128.load(state, 64);
    const band = v128.load(state, 96);
    const low = v128.load(state, 112);
    const d = f64x2.mul(two, a3);
    v128.store(link, f64x2.mul(two, a2));
    v128.store(link, f64x2.sub(f64x2.mul(two, a1), one), 16);
    v128.store(link, d, 32);
    v128.store(link, f64x2.sub(one, d), 48);
    v128.store(link, heardOfInput(v128.load(state, 80), band, low, a2, a3), 64);
    v128.store(link, heardOfFirst(band, low, a1, a2), 80);
    v128.store(link, heardOfSecond(band, low, a2, a3), 96);
  }
  for (let i = 0; i < frames; i++, left += 8, right += 8) {
    let x = loadFrame(left, right);
    for (let place = states, link = room; place < end; place += 4, link += LINK) {
      const state = load<u32>(place) as usize;
      const s1 = v128.load(state);
      const s2 = v128.load(state, 16);
      const b = v128.load(link);
      v128.store(state, nextFirst(x, s1, s2, b, v128.load(link, 16)));
      v128.store(state, nextSecond(x, s1, s2, b, v128.load(link, 32), v128.load(link, 48)), 16);
      x = heard(x, s1, s2, v128.load(link, 64), v128.load(link, 80), v128.load(link, 96));
    }
    storeFrame(left, right, x);
  }
}
