// Sounds at another rate.

/**
 * Output frames of a polyphase low-pass (`throughPhases`).
 * @param input floats, the first of which is frame `origin` of the sound
 * @param taps doubles, 2 x `side` for each of `up` places between two input frames
 * @param out floats, the first of which is frame `from`
 */
export function polyphase(
  input: usize,
  origin: f64,
  taps: usize,
  up: f64,
  down: f64,
  side: i32,
  out: usize,
  from: f64,
  frames: i32,
): void {
  const count = 2 * side;
  for (let i = 0; i < frames; i++) {
    const place = (from + (i as f64)) * down;
    const base = Math.floor(place / up);
    let tap = taps + ((((place - base * up) as i32) * count) << 3);
    let at = input + ((((base - origin) as i32) + 1 - side) << 2);
    let even = f64x2.splat(0);
    let odd = f64x2.splat(0);
    let n = 0;
    for (; n + 4 <= count; n += 4, tap += 32, at += 16) {
      even = f64x2.add(even, f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(at)), v128.load(tap)));
      odd = f64x2.add(odd, f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(at, 8)), v128.load(tap, 16)));
    }
    if (n < count) even = f64x2.add(even, f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(at)), v128.load(tap)));
    const sum = f64x2.add(even, odd);
    store<f32>(out + ((i as usize) << 2), (f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1)) as f32);
  }
}
