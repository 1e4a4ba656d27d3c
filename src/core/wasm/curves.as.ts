import { cos, HALF_PI, sin } from './elementary.as';

const FLOAT: usize = 4;

// The curves of dsp/curves.ts, by their place in CURVES.

const SOFT: i32 = 0;
const HARD: i32 = 1;
const FOLD: i32 = 2;
const ASYMMETRIC: i32 = 3;
const LOWER: f64 = 0.6;
const FOLD_END: f64 = 5 * HALF_PI;
const NEAR: f64 = 1e-4;
/** Added to each step, so that none is nothing. */
const LEAST: f32 = 1e-20;
export const FLOOR: f32 = 1e-7;

function foldAt(x: f64): f64 {
  return x >= FOLD_END ? 1 : x <= -FOLD_END ? -1 : sin(x);
}

function foldFirst(x: f64): f64 {
  const past = (x < 0 ? -x : x) - FOLD_END;
  return past > 0 ? 1 + past : 1 - cos(x);
}

function foldSecond(x: f64): f64 {
  const m = x < 0 ? -x : x;
  const past = m - FOLD_END;
  const value = past > 0 ? FOLD_END - 1 + past + 0.5 * past * past : m - sin(m);
  return x < 0 ? -value : value;
}

@inline
function leastStep(x: f64): f64 {
  return NEAR * (1 + (x < 0 ? -x : x));
}

/** As `foldedMean`. */
@inline
function foldedMean(x: f64, before: f64, second: f64, secondBefore: f64): f64 {
  const step = x - before;
  const least = leastStep(before);
  return step > least || step < -least ? (second - secondBefore) / step : foldFirst(0.5 * (x + before));
}

/** A folded sound needs sines, and goes through one sample at a time. */
function shapeFold(state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  let x2 = load<f32>(state) as f64;
  let x1 = load<f32>(state, 4) as f64;
  let second1 = foldSecond(x1);
  let mean1 = foldedMean(x1, x2, second1, foldSecond(x2));
  let to = peak;
  for (let i = 0; i < frames; i++, gains += 8) {
    const gain = load<f64>(gains) as f32;
    const back: f32 = 1 / gain;
    for (let n = 0; n < times; n++, to += FLOAT) {
      const x = ((load<f32>(to) + FLOOR - FLOOR) * gain) as f64;
      const second = foldSecond(x);
      const mean = foldedMean(x, x1, second, second1);
      const least = leastStep(x1);
      const span = x - x2;
      let out: f64;
      if (span > least || span < -least) {
        out = (2 * (mean - mean1)) / span;
      } else {
        const middle = 0.5 * (x + x2);
        const away = middle - x1;
        out =
          away > least || away < -least
            ? (2 / away) * (foldFirst(middle) + (second1 - foldSecond(middle)) / away)
            : foldAt(0.5 * (middle + x1));
      }
      store<f32>(to, (out as f32) * back);
      x2 = x1;
      x1 = x;
      mean1 = mean;
      second1 = second;
    }
  }
  store<f32>(state, x2 as f32);
  store<f32>(state, x1 as f32, 4);
}

// All other curves are polynomials of a clamped sound, four samples at a time; some have one for each side.

@inline
export function splat(x: f32): v128 {
  return f32x4.splat(x);
}

/** Level under which sound is inaudible and would only cost time. */
@inline
function floored(x: v128): v128 {
  return f32x4.sub(f32x4.add(x, splat(FLOOR)), splat(FLOOR));
}

@inline
function twoSided(curve: i32): bool {
  return curve != SOFT && curve != HARD;
}

@inline
function lowest(curve: i32, side: i32): f32 {
  if (side == 0) return curve == SOFT ? -1.5 : curve == HARD ? -1 : 0;
  return curve == ASYMMETRIC ? ((-1.5 * LOWER) as f32) : -2;
}

@inline
function highest(curve: i32, side: i32): f32 {
  if (side == 1) return 0;
  return curve == HARD ? 1 : curve == SOFT || curve == ASYMMETRIC ? 1.5 : 2;
}

/** Coefficient of the third power. */
@inline
function cubic(curve: i32, side: i32): f32 {
  if (curve == SOFT) return (-4.0 / 27.0) as f32;
  if (curve == ASYMMETRIC) return side == 0 ? ((-4.0 / 27.0) as f32) : ((-4.0 / 27.0 / (LOWER * LOWER)) as f32);
  return 0;
}

@inline
function clamp(x: v128, low: f32, high: f32): v128 {
  return f32x4.pmax(f32x4.pmin(x, splat(high)), splat(low));
}

@inline
function polynomial(curve: i32, side: i32, c: v128): v128 {
  if (curve == HARD) return c;
  if (curve == SOFT || curve == ASYMMETRIC) {
    return f32x4.mul(c, f32x4.add(splat(1), f32x4.mul(splat(cubic(curve, side)), f32x4.mul(c, c))));
  }
  return f32x4.mul(c, f32x4.add(splat(1), f32x4.mul(splat(side == 0 ? -0.25 : 0.25), c)));
}

/** The parts of the ways between samples at which they enter the span of a polynomial. */
@inline
function entering(clamped: v128, from: v128, inverse: v128): v128 {
  return clamp(f32x4.mul(f32x4.sub(clamped, from), inverse), 0, 1);
}

/** Those at which they leave it: 1 where they end within. */
@inline
function leaving(clamped: v128, from: v128, to: v128, inverse: v128): v128 {
  return v128.bitselect(splat(1), entering(clamped, from, inverse), f32x4.eq(clamped, to));
}

/** The samples of two vectors that lie one before those of the second. */
@inline
function earlier(before: v128, now: v128): v128 {
  return v128.shuffle<f32>(before, now, 3, 4, 5, 6);
}

/** Small factors are added to 1 first: what they make can be too small for the machine to be quick with it. */
@inline
function part(x: v128, factor: v128): v128 {
  return f32x4.sub(f32x4.mul(x, f32x4.add(splat(1), factor)), x);
}

/** The mean of a polynomial between two places. */
@inline
function meanOf(curve: i32, side: i32, from: v128, to: v128, ends: v128, square: v128): v128 {
  const straight = f32x4.mul(splat(0.5), ends);
  if (curve == HARD) return straight;
  if (curve == SOFT || curve == ASYMMETRIC) {
    const bent = f32x4.mul(splat(cubic(curve, side) / 4), square);
    return f32x4.sub(straight, part(f32x4.add(from, to), bent));
  }
  return f32x4.sub(straight, f32x4.mul(splat(((side == 0 ? -0.25 : 0.25) / 6) as f32), square));
}

/** The same, weighed by how far it is to the second place. */
@inline
function leanOf(curve: i32, side: i32, way: v128, square: v128, rise: v128, mean: v128): v128 {
  const lean = f32x4.add(f32x4.mul(splat(0.5), mean), f32x4.mul(splat((1.0 / 12.0) as f32), rise));
  if (curve != SOFT && curve != ASYMMETRIC) return lean;
  return f32x4.sub(lean, part(way, f32x4.mul(splat(cubic(curve, side) / 120), square)));
}

/** The mean of the curve along the whole way. */
@inline
function wholeOf(before: v128, inside: v128, after: v128, mean: v128): v128 {
  return f32x4.add(f32x4.add(before, f32x4.mul(inside, mean)), after);
}

/** The same, weighed by how late in it. */
@inline
function lateOf(enters: v128, leaves: v128, before: v128, inside: v128, after: v128, mean: v128, lean: v128): v128 {
  const ends = f32x4.add(f32x4.mul(enters, before), f32x4.mul(f32x4.add(splat(1), leaves), after));
  const middle = f32x4.mul(inside, f32x4.add(f32x4.mul(enters, mean), f32x4.mul(inside, lean)));
  return f32x4.add(f32x4.mul(splat(0.5), ends), middle);
}

const FIRST_SIDE: i32 = 1;
const SECOND_SIDE: i32 = 2;

/** Bits of the sides within whose span all of four samples lie. */
@inline
function sidesOf(curve: i32, x: v128): i32 {
  const high = f32x4.le(x, splat(highest(curve, 0)));
  const low = f32x4.ge(x, splat(lowest(curve, 0)));
  let sides = i32x4.all_true(v128.and(high, low)) ? FIRST_SIDE : 0;
  if (twoSided(curve)) {
    const otherHigh = f32x4.le(x, splat(highest(curve, 1)));
    const otherLow = f32x4.ge(x, splat(lowest(curve, 1)));
    if (i32x4.all_true(v128.and(otherHigh, otherLow))) sides |= SECOND_SIDE;
  }
  return sides;
}

/** Four samples at a time; those that stay within one span, as most do, make less work. */
@inline
function shape(curve: i32, state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  const low = lowest(curve, 0);
  const high = highest(curve, 0);
  const otherLow = lowest(curve, 1);
  const otherHigh = highest(curve, 1);
  // A round of nothing at first, for the way between the last two samples.
  let x = v128.load32_splat(state);
  let to = clamp(x, low, high);
  let last = polynomial(curve, 0, to);
  let otherTo = clamp(x, otherLow, otherHigh);
  let otherLast = polynomial(curve, 1, otherTo);
  let sides = sidesOf(curve, x);
  let late = splat(0);
  let at = peak - 16;
  let factor = splat(0);
  let back = splat(0);
  const vectors = (frames * times) >> 2;
  // Vectors of a frame, less 1.
  const more = (times >> 2) - 1;
  for (let i = -1; i < vectors; i++, at += 16) {
    const xBefore = x;
    const toBefore = to;
    const lastBefore = last;
    const otherToBefore = otherTo;
    const otherLastBefore = otherLast;
    const lateBefore = late;
    const sidesBefore = sides;
    if (i < 0) {
      x = v128.load64_splat(state);
    } else {
      if ((i & more) == 0) {
        const gain = load<f64>(gains) as f32;
        gains += 8;
        factor = splat(gain);
        back = splat(1 / gain);
      }
      x = f32x4.mul(floored(v128.load(at)), factor);
    }
    sides = sidesOf(curve, x);
    const within = sides & sidesBefore;
    let whole: v128;
    if (within & FIRST_SIDE) {
      to = x;
      last = polynomial(curve, 0, to);
      otherTo = splat(0);
      otherLast = splat(0);
      const from = earlier(toBefore, to);
      const first = earlier(lastBefore, last);
      const way = f32x4.sub(to, from);
      const square = f32x4.mul(way, way);
      whole = meanOf(curve, 0, from, to, f32x4.add(first, last), square);
      late = leanOf(curve, 0, way, square, f32x4.sub(last, first), whole);
    } else if (twoSided(curve) && within & SECOND_SIDE) {
      to = splat(0);
      last = splat(0);
      otherTo = x;
      otherLast = polynomial(curve, 1, otherTo);
      const from = earlier(otherToBefore, otherTo);
      const first = earlier(otherLastBefore, otherLast);
      const way = f32x4.sub(otherTo, from);
      const square = f32x4.mul(way, way);
      whole = meanOf(curve, 1, from, otherTo, f32x4.add(first, otherLast), square);
      late = leanOf(curve, 1, way, square, f32x4.sub(otherLast, first), whole);
    } else {
      const a = earlier(xBefore, x);
      const inverse = f32x4.div(splat(1), f32x4.add(f32x4.sub(x, a), splat(LEAST)));
      to = clamp(x, low, high);
      last = polynomial(curve, 0, to);
      const from = earlier(toBefore, to);
      const first = earlier(lastBefore, last);
      const enters = entering(from, a, inverse);
      const leaves = leaving(to, a, x, inverse);
      const inside = f32x4.sub(leaves, enters);
      const way = f32x4.sub(to, from);
      const square = f32x4.mul(way, way);
      const mean = meanOf(curve, 0, from, to, f32x4.add(first, last), square);
      const lean = leanOf(curve, 0, way, square, f32x4.sub(last, first), mean);
      const before = f32x4.mul(enters, first);
      const after = f32x4.mul(f32x4.sub(splat(1), leaves), last);
      whole = wholeOf(before, inside, after, mean);
      late = lateOf(enters, leaves, before, inside, after, mean, lean);
      if (twoSided(curve)) {
        otherTo = clamp(x, otherLow, otherHigh);
        otherLast = polynomial(curve, 1, otherTo);
        const otherFrom = earlier(otherToBefore, otherTo);
        const otherFirst = earlier(otherLastBefore, otherLast);
        const otherEnters = entering(otherFrom, a, inverse);
        const otherLeaves = leaving(otherTo, a, x, inverse);
        const otherInside = f32x4.sub(otherLeaves, otherEnters);
        const otherWay = f32x4.sub(otherTo, otherFrom);
        const otherSquare = f32x4.mul(otherWay, otherWay);
        const otherMean = meanOf(curve, 1, otherFrom, otherTo, f32x4.add(otherFirst, otherLast), otherSquare);
        const rise = f32x4.sub(otherLast, otherFirst);
        const otherLean = leanOf(curve, 1, otherWay, otherSquare, rise, otherMean);
        const otherBefore = f32x4.mul(otherEnters, otherFirst);
        const otherAfter = f32x4.mul(f32x4.sub(splat(1), otherLeaves), otherLast);
        whole = f32x4.add(whole, wholeOf(otherBefore, otherInside, otherAfter, otherMean));
        late = f32x4.add(
          late,
          lateOf(otherEnters, otherLeaves, otherBefore, otherInside, otherAfter, otherMean, otherLean),
        );
      }
    }
    if (i < 0) continue;
    v128.store(at, f32x4.mul(f32x4.add(earlier(lateBefore, late), f32x4.sub(whole, late)), back));
  }
  store<f32>(state, f32x4.extract_lane(x, 2));
  store<f32>(state, f32x4.extract_lane(x, 3), 4);
}

// One loop for each curve, so that none is asked for at every sample.

function shapeSoft(state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  shape(SOFT, state, peak, times, frames, gains);
}
function shapeHard(state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  shape(HARD, state, peak, times, frames, gains);
}
function shapeAsymmetric(state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  shape(ASYMMETRIC, state, peak, times, frames, gains);
}
function shapeTape(state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  shape(4, state, peak, times, frames, gains);
}

/**
 * Sends a block through a curve, at a gain for each frame and back by it.
 * @param state the last two samples that went into the curve, as floats
 * @param peak floats, `times` of them for each frame
 */
export function bend(curve: i32, state: usize, peak: usize, times: i32, frames: i32, gains: usize): void {
  if (curve == SOFT) shapeSoft(state, peak, times, frames, gains);
  else if (curve == HARD) shapeHard(state, peak, times, frames, gains);
  else if (curve == FOLD) shapeFold(state, peak, times, frames, gains);
  else if (curve == ASYMMETRIC) shapeAsymmetric(state, peak, times, frames, gains);
  else shapeTape(state, peak, times, frames, gains);
}
