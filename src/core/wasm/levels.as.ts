// Levels of blocks of doubles: peaks, decibels, gains, sides of a pan.
import { cos, dbToGain, expPair, gainToDb, LN10_OVER_20 } from './elementary.as';

/** What the state of a sliding maximum begins with, in bytes: its window and its octaves, as doubles. */
const OCTAVES: usize = 8;
const LINES: usize = 16;
/** Values of a block, and what SIMD may write beyond it. */
const LONGEST: i32 = 128;
const SPARE: i32 = 2;

/** Bytes of the line of an octave: the maxima of 2^octave values, as many of before as that, and those of a block. */
@inline
function lineBytes(octave: i32): usize {
  return (((1 << octave) + LONGEST + SPARE) as usize) << 3;
}

/**
 * The largest of the last values, for each of a block in place. Maxima of twice as many values are those of two that lie side by side, so that
 * any window is two of the longest that fit into it.
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

/** Up to here in either direction a power of e is a normal number; below -1e308 dB and the like are for the slow way. */
const FAR: f64 = 700;

/** Decibels in place to gains, two at a time: as `dbToGain`. */
export function gains(block: usize, frames: i32): void {
  const far = f64x2.splat(FAR);
  let i = 0;
  for (; i + 2 <= frames; i += 2, block += 16) {
    const x = f64x2.mul(v128.load(block), f64x2.splat(LN10_OVER_20));
    if (i64x2.all_true(f64x2.lt(f64x2.abs(x), far))) {
      v128.store(block, expPair(x));
      continue;
    }
    store<f64>(block, dbToGain(load<f64>(block)));
    store<f64>(block, dbToGain(load<f64>(block, 8)), 8);
  }
  if (i < frames) store<f64>(block, dbToGain(load<f64>(block)));
}

const HALF_PI: f64 = 1.5707963267948966;

/** As `balance`, of every frame. */
export function balances(pans: usize, left: usize, right: usize, frames: i32): void {
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 3;
    const pan = load<f64>(pans + at);
    store<f64>(left + at, pan > 0 ? (pan >= 1 ? 0 : cos(pan * HALF_PI)) : 1);
    store<f64>(right + at, pan < 0 ? (pan <= -1 ? 0 : cos(pan * HALF_PI)) : 1);
  }
}
