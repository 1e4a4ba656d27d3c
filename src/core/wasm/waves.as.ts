// Oscillators that add a block to two sides, as `wavesTwin.ts`, which says what their states hold.

/** Phases are whole numbers, 2^48 of them to a cycle: they come round by themselves. */
const CYCLE: f64 = 281474976710656;
const ROUND: u64 = 0xffffffffffff;
const PART: f64 = 1.0 / 1048576.0;

/** Of 4096 samples; between two of them in a straight line. */
@inline
function tableAt(table: usize, phase: u64): f64 {
  const at = table + ((((phase >> 36) & 0xfff) as usize) << 2);
  const first = load<f32>(at) as f64;
  return first + (((phase >> 16) as i32) & 0xfffff) * PART * ((load<f32>(at, 4) as f64) - first);
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
  let n = offset as f64;
  for (let i = 0; i < frames; i++, n += 1) {
    let x = tableAt(near, p);
    if (blend > 0) x += blend * (tableAt(far, p) - x);
    if (pulse) {
      const q = p + apart;
      let y = tableAt(near, q);
      if (blend > 0) y += blend * (tableAt(far, q) - y);
      x -= y;
      apart += widthStep;
    }
    addTo(left, i, x * (toLeft + n * leftStep));
    addTo(right, i, x * (toRight + n * rightStep));
    p += by;
    by += step;
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
  let n = offset as f64;
  for (let i = 0; i < frames; i++, n += 1) {
    const factor = gain + n * step;
    const at = (i as usize) << 3;
    store<f64>(outLeft + at, load<f64>(outLeft + at) + factor * load<f64>(left + at));
    store<f64>(outRight + at, load<f64>(outRight + at) + factor * load<f64>(right + at));
    store<f64>(left + at, 0);
    store<f64>(right + at, 0);
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

export function addNoise(
  state: usize,
  counter: u32,
  offset: i32,
  frames: i32,
  left: usize,
  right: usize,
): void {
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
