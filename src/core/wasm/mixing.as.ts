// Stereo blocks in single precision: mixing, levels and peaks, worked out in double precision as JavaScript does.

@inline
function pair(at: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(at));
}

@inline
function putPair(at: usize, x: v128): void {
  v128.store64_lane(at, f32x4.demote_f64x2_zero(x), 0);
}

@inline
function mixPair(out: usize, block: usize, gain: v128): void {
  putPair(out, f64x2.add(pair(out), f64x2.mul(pair(block), gain)));
}

@inline
function mixOne(out: usize, block: usize, gain: f64): void {
  store<f32>(out, ((load<f32>(out) as f64) + (load<f32>(block) as f64) * gain) as f32);
}

/** Adds a block to another at a gain, or at one for each frame where `gains` is not 0. */
export function mixFloats(
  outLeft: usize,
  outRight: usize,
  left: usize,
  right: usize,
  gain: f64,
  gains: usize,
  frames: i32,
): void {
  let factor = f64x2.splat(gain);
  const whole = frames & ~1;
  for (let i = 0; i < whole; i += 2) {
    const at = (i as usize) << 2;
    if (gains) factor = v128.load(gains + (at << 1));
    mixPair(outLeft + at, left + at, factor);
    mixPair(outRight + at, right + at, factor);
  }
  if (whole == frames) return;
  const at = (whole as usize) << 2;
  const last = gains ? load<f64>(gains + (at << 1)) : gain;
  mixOne(outLeft + at, left + at, last);
  mixOne(outRight + at, right + at, last);
}

/** Takes each side of a block to its own level, in place. */
export function scaleFloats(left: usize, right: usize, gainLeft: f64, gainRight: f64, frames: i32): void {
  const first = f64x2.splat(gainLeft);
  const second = f64x2.splat(gainRight);
  const whole = frames & ~1;
  for (let i = 0; i < whole; i += 2) {
    const at = (i as usize) << 2;
    putPair(left + at, f64x2.mul(pair(left + at), first));
    putPair(right + at, f64x2.mul(pair(right + at), second));
  }
  if (whole == frames) return;
  const at = (whole as usize) << 2;
  store<f32>(left + at, ((load<f32>(left + at) as f64) * gainLeft) as f32);
  store<f32>(right + at, ((load<f32>(right + at) as f64) * gainRight) as f32);
}

@inline
function peakOf(block: usize, frames: i32): f32 {
  let most = f32x4.splat(0);
  const whole = frames & ~3;
  for (let i = 0; i < whole; i += 4) most = f32x4.pmax(most, f32x4.abs(v128.load(block + ((i as usize) << 2))));
  let peak = max(
    max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
  for (let i = whole; i < frames; i++) peak = max(peak, abs(load<f32>(block + ((i as usize) << 2))));
  return peak;
}

/** The largest magnitudes of both sides, as doubles at `out`. */
export function peakFloats(left: usize, right: usize, out: usize, frames: i32): void {
  store<f64>(out, peakOf(left, frames) as f64);
  store<f64>(out, peakOf(right, frames) as f64, 8);
}
