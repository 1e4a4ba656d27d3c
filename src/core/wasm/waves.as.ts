// Oscillators that add a block to two sides, as `wavesTwin.ts`, which says what their states hold.

const SIZE: f64 = 4096;

@inline
function tableAt(table: usize, phase: f64): f64 {
  const place = phase * SIZE;
  const whole = place as i32;
  const at = table + ((whole as usize) << 2);
  const first = load<f32>(at) as f64;
  return first + (place - (whole as f64)) * ((load<f32>(at, 4) as f64) - first);
}

@inline
function wrapped(phase: f64): f64 {
  return phase - floor(phase);
}

/** A figure of a state that moves in a straight line: itself and, behind it, its step. */
@inline
function moved(state: usize, figure: usize, n: f64): f64 {
  const at = state + (figure << 3);
  return load<f64>(at) + n * load<f64>(at, 8);
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
  let p = load<f64>(state);
  const pulse = load<f64>(state, 32) >= 0;
  for (let i = 0; i < frames; i++) {
    const n = (offset + i) as f64;
    let x = tableAt(near, p);
    if (blend > 0) x += blend * (tableAt(far, p) - x);
    if (pulse) {
      const q = wrapped(p + moved(state, 4, n));
      let y = tableAt(near, q);
      if (blend > 0) y += blend * (tableAt(far, q) - y);
      x -= y;
    }
    addTo(left, i, x * moved(state, 6, n));
    addTo(right, i, x * moved(state, 8, n));
    p = wrapped(p + moved(state, 2, n));
  }
  store<f64>(state, p);
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
  let p = load<f64>(state);
  let q = load<f64>(state, 8);
  for (let i = 0; i < frames; i++) {
    const n = (offset + i) as f64;
    const x = tableAt(sine, wrapped(p + moved(state, 4, n) * tableAt(sine, q)));
    addTo(left, i, x * moved(state, 6, n));
    addTo(right, i, x * moved(state, 8, n));
    const increment = moved(state, 2, n);
    p = wrapped(p + increment);
    q = wrapped(q + ratio * increment);
  }
  store<f64>(state, p);
  store<f64>(state, q, 8);
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
  for (let i = 0; i < frames; i++) {
    const n = (offset + i) as f64;
    const middle = moved(state, 6, n) * noiseAt(counter++);
    const side = moved(state, 8, n) * noiseAt(counter++);
    addTo(left, i, middle + side);
    addTo(right, i, middle - side);
  }
}
