// Levels of blocks of doubles: peaks, decibels, gains, sides of a pan.
import { cos, dbToGain, gainToDb } from './elementary.as';

/** Where the state of a sliding maximum has what, in doubles: its ring of values follows, then that of their frames. */
const HEAD: usize = 0;
const TAIL: usize = 8;
const FRAME: usize = 16;
const WINDOW: usize = 24;
const SIZE: usize = 32;
const RINGS: usize = 40;

/** As `SlidingMaximum`, of the louder side of a stereo block. */
export function slidingPeaks(state: usize, left: usize, right: usize, out: usize, frames: i32): void {
  const size = load<f64>(state + SIZE) as i32;
  const mask = size - 1;
  const values = state + RINGS;
  const times = values + ((size as usize) << 3);
  const window = load<f64>(state + WINDOW);
  let head = load<f64>(state + HEAD) as i64;
  let tail = load<f64>(state + TAIL) as i64;
  let frame = load<f64>(state + FRAME);
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 3;
    const value = max(abs(load<f64>(left + at)), abs(load<f64>(right + at)));
    while (tail > head && load<f64>(values + (((tail - 1) & mask) as usize << 3)) <= value) tail--;
    const place = ((tail & mask) as usize) << 3;
    store<f64>(values + place, value);
    store<f64>(times + place, frame);
    tail++;
    while (load<f64>(times + ((head & mask) as usize << 3)) <= frame - window) head++;
    store<f64>(out + at, load<f64>(values + ((head & mask) as usize << 3)));
    frame += 1;
  }
  store<f64>(state + HEAD, head as f64);
  store<f64>(state + TAIL, tail as f64);
  store<f64>(state + FRAME, frame);
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

/** Decibels in place to gains. */
export function gains(block: usize, frames: i32): void {
  let last: f64 = 0;
  let gain: f64 = 1;
  for (let i = 0; i < frames; i++) {
    const at = block + ((i as usize) << 3);
    const db = load<f64>(at);
    if (db != last) {
      last = db;
      gain = dbToGain(db);
    }
    store<f64>(at, gain);
  }
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
