// Levels of blocks of doubles: peaks, decibels, gains, sides of a pan.
import { LONGEST } from './blocks.as';
import { cos, gainToDb, HALF_PI } from './elementary.as';

/** Header of a sliding maximum's state, in bytes: its window and its octaves, as doubles. */
const OCTAVES: usize = 8;
const LINES: usize = 16;
/** Bytes that SIMD may write beyond a block. */
const SPARE: i32 = 2;

/** Bytes of the line of an octave: the maxima of 2^octave values, as many of before as that, and those of a block. */
@inline
function lineBytes(octave: i32): usize {
  return (((1 << octave) + LONGEST + SPARE) as usize) << 3;
}

/**
 * The largest of the last values, for each of a block in place. Maxima of twice as many values are those of two that lie
 * side by side, so that any window is two of the longest that fit into it.
 * @param state see `slidingMaxima.ts`
 */
export function slideMaxima(state: usize, block: usize, frames: i32): void {
  const octaves = load<f64>(state, OCTAVES) as i32;
  const window = load<f64>(state) as i32;
  const bytes = (frames as usize) << 3;
  const pairs = ((frames + 1) >> 1) << 4;
  for (let at: usize = 0; at < bytes; at += 8) store<f64>(state + LINES + 8 + at, load<f64>(block + at));
  let line = state + LINES;
  for (let octave = 0; octave <= octaves; octave++) {
    const width = (1 << octave) as usize;
    const values = line + (width << 3);
    const next = line + lineBytes(octave);
    if (window >> octave == 1) {
      const other = values - (((window as usize) - width) << 3);
      for (let at: usize = 0; at + 16 <= bytes; at += 16) {
        v128.store(block + at, f64x2.pmax(v128.load(values + at), v128.load(other + at)));
      }
      if (frames & 1) {
        const at = bytes - 8;
        store<f64>(block + at, max(load<f64>(values + at), load<f64>(other + at)));
      }
    }
    if (octave < octaves) {
      const doubled = next + (width << 4);
      for (let at: usize = 0; at < (pairs as usize); at += 16) {
        v128.store(doubled + at, f64x2.pmax(v128.load(values + at), v128.load(line + at)));
      }
    }
    // The last ones come first in the next block; a pair too many is written over there.
    for (let at: usize = 0; at < width << 3; at += 16) v128.store(line + at, v128.load(line + bytes + at));
    line = next;
  }
}

/** The louder side of a stereo block, then as `slideMaxima`. */
export function slidingPeaks(state: usize, left: usize, right: usize, out: usize, frames: i32): void {
  let i = 0;
  for (; i + 2 <= frames; i += 2) {
    const at = (i as usize) << 3;
    v128.store(out + at, f64x2.pmax(f64x2.abs(v128.load(left + at)), f64x2.abs(v128.load(right + at))));
  }
  if (i < frames) {
    const at = (i as usize) << 3;
    store<f64>(out + at, max(abs(load<f64>(left + at)), abs(load<f64>(right + at))));
  }
  slideMaxima(state, out, frames);
}

/** Magnitudes in place to decibels; those up to `floor` to `floorDb`. Neighbours are often alike. */
export function decibels(block: usize, frames: i32, floor: f64, floorDb: f64): void {
  let last: f64 = -1;
  let lastDb: f64 = 0;
  for (let i = 0; i < frames; i++) {
    const at = block + ((i as usize) << 3);
    const level = load<f64>(at);
    if (level != last) {
      last = level;
      lastDb = level <= floor ? floorDb : gainToDb(level);
    }
    store<f64>(at, lastDb);
  }
}

/** Octaves of gain in a decibel: log2(10) / 20. */
const OCTAVES_PER_DB: f32 = 0.16609640474436813;
/** Octaves below which nothing is left, and above which there is no more. */
const LOWEST_OCTAVE: f32 = -120;
const HIGHEST_OCTAVE: f32 = 120;

/** 2 to the x by its series, for x from -0.5 to 0.5: within 2e-7. */
@inline
function powerWithin(x: v128): v128 {
  let p = f32x4.add(f32x4.splat(1.3333558e-3), f32x4.mul(x, f32x4.splat(1.540353e-4)));
  p = f32x4.add(f32x4.splat(9.6181291e-3), f32x4.mul(x, p));
  p = f32x4.add(f32x4.splat(5.5504109e-2), f32x4.mul(x, p));
  p = f32x4.add(f32x4.splat(2.4022651e-1), f32x4.mul(x, p));
  p = f32x4.add(f32x4.splat(6.9314718e-1), f32x4.mul(x, p));
  return f32x4.add(f32x4.splat(1), f32x4.mul(x, p));
}

/** Gains of four levels in decibels, in single precision. */
@inline
function gainsOf(db: v128): v128 {
  const octaves = f32x4.mul(db, f32x4.splat(OCTAVES_PER_DB));
  const within = f32x4.pmax(f32x4.pmin(octaves, f32x4.splat(HIGHEST_OCTAVE)), f32x4.splat(LOWEST_OCTAVE));
  const whole = f32x4.nearest(within);
  const power = powerWithin(f32x4.sub(within, whole));
  const gains = i32x4.add(power, i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 23));
  return v128.and(gains, f32x4.gt(octaves, f32x4.splat(LOWEST_OCTAVE)));
}

/** Decibels in place to gains, four at a time: within 1.5e-6 of `dbToGain` up to 120 dB either way, just 1 at 0 dB, 0 under -720 dB. */
export function gains(block: usize, frames: i32): void {
  let i = 0;
  for (; i + 4 <= frames; i += 4, block += 32) {
    const low = f32x4.demote_f64x2_zero(v128.load(block));
    const high = f32x4.demote_f64x2_zero(v128.load(block, 16));
    const four = gainsOf(v128.shuffle<f32>(low, high, 0, 1, 4, 5));
    v128.store(block, f64x2.promote_low_f32x4(four));
    v128.store(block, f64x2.promote_low_f32x4(v128.shuffle<f32>(four, four, 2, 3, 2, 3)), 16);
  }
  for (; i < frames; i++, block += 8) {
    store<f64>(block, f32x4.extract_lane(gainsOf(f32x4.splat(load<f64>(block) as f32)), 0) as f64);
  }
}

/** As `balance`, of every frame. */
export function balances(pans: usize, left: usize, right: usize, frames: i32): void {
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 3;
    const pan = load<f64>(pans + at);
    store<f64>(left + at, pan > 0 ? (pan >= 1 ? 0 : cos(pan * HALF_PI)) : 1);
    store<f64>(right + at, pan < 0 ? (pan <= -1 ? 0 : cos(pan * HALF_PI)) : 1);
  }
}
