/**
 * Loops of the core in WebAssembly with SIMD (AssemblyScript). Each does the operations of its TypeScript twin in the
 * same order and so gives the same bits; the twins say what they do and where it comes from. Nothing is kept here between
 * two calls: the caller copies what a kernel holds in and out.
 */

const DOUBLE: usize = 8;
const LONGEST: i32 = 128;
/** What SIMD may read and write beyond the end of a block. */
const SPARE: i32 = 8;

/** Pairs of taps of the three half-band stages of a drive, from the outside in. */
const OUTER: i32 = 16;
const MIDDLE: i32 = 6;
const INNER: i32 = 4;
/** What the stages, the two curves and the padding of a drive hold, in doubles. */
const STAGES_HOLD: i32 = 6 * (OUTER + MIDDLE + INNER);
const CURVE_HOLDS: i32 = 3;
const HELD: i32 = 6;

const STATE = memory.data((STAGES_HOLD + 2 * CURVE_HOLDS + HELD) * 8, 16);
const TAPS = memory.data((OUTER + MIDDLE + INNER) * 8, 16);
const BLOCK = memory.data((LONGEST + SPARE) * 8, 16);
const FIRST_GAINS = memory.data((LONGEST + SPARE) * 8, 16);
const SECOND_GAINS = memory.data((LONGEST + SPARE) * 8, 16);
const TWICE = memory.data((2 * LONGEST + 2 * SPARE) * 8, 16);
const FOUR = memory.data((4 * LONGEST + 4 * SPARE) * 8, 16);
const EIGHT = memory.data((8 * LONGEST + 8 * SPARE) * 8, 16);
const LINE = memory.data((4 * LONGEST + 2 * OUTER + SPARE) * 8, 16);
const OTHER_LINE = memory.data((4 * LONGEST + 2 * OUTER + SPARE) * 8, 16);
const SUMS = memory.data((4 * LONGEST + SPARE) * 8, 16);
const LAST = memory.data(HELD * 8, 16);

export function driveState(): usize {
  return STATE;
}
export function driveTaps(): usize {
  return TAPS;
}
export function driveBlock(): usize {
  return BLOCK;
}
export function driveFirstGains(): usize {
  return FIRST_GAINS;
}
export function driveSecondGains(): usize {
  return SECOND_GAINS;
}

// Elementary functions, as in core/math/elementary.ts.

const HALF_PI_1: f64 = 1.57079632673412561417;
const HALF_PI_1_TAIL: f64 = 6.07710050650619224932e-11;
const HALF_PI_2: f64 = 6.0771005063039659766e-11;
const HALF_PI_2_TAIL: f64 = 2.02226624879595063154e-21;
const TWO_OVER_PI: f64 = 6.36619772367581382433e-1;

function sineKernel(x: f64, tail: f64): f64 {
  const z = x * x;
  const v = z * x;
  const r =
    8.33333333332248946124e-3 +
    z *
      (-1.98412698298579493134e-4 +
        z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)));
  return x - (z * (0.5 * tail - v * r) - tail - v * -1.66666666666666324348e-1);
}

function cosineKernel(x: f64, tail: f64): f64 {
  const z = x * x;
  const r =
    z *
    (4.16666666666666019037e-2 +
      z *
        (-1.38888888888741095749e-3 +
          z *
            (2.48015872894767294178e-5 +
              z * (-2.75573143513906633035e-7 + z * (2.0875723212981748279e-9 + z * -1.13596475577881948265e-11)))));
  const half = 0.5 * z;
  const w = 1 - half;
  return w + (1 - w - half + (z * r - x * tail));
}

let reduced: f64 = 0;
let reducedTail: f64 = 0;

function reduceToQuarter(x: f64): i32 {
  const n = Math.round(x * TWO_OVER_PI);
  if (n == 0) {
    reduced = x;
    reducedTail = 0;
    return 0;
  }
  const first = x - n * HALF_PI_1;
  let w = n * HALF_PI_1_TAIL;
  let y = first - w;
  let r = first;
  if (abs(y) < abs(x) * 1e-5) {
    w = n * HALF_PI_2;
    r = first - w;
    w = n * HALF_PI_2_TAIL - (first - r - w);
    y = r - w;
  }
  reduced = y;
  reducedTail = r - y - w;
  return (n as i32) & 3;
}

function sin(x: f64): f64 {
  const quarter = reduceToQuarter(x);
  if (quarter == 0) return sineKernel(reduced, reducedTail);
  if (quarter == 1) return cosineKernel(reduced, reducedTail);
  if (quarter == 2) return -sineKernel(reduced, reducedTail);
  return -cosineKernel(reduced, reducedTail);
}

function cos(x: f64): f64 {
  const quarter = reduceToQuarter(x);
  if (quarter == 0) return cosineKernel(reduced, reducedTail);
  if (quarter == 1) return -sineKernel(reduced, reducedTail);
  if (quarter == 2) return -cosineKernel(reduced, reducedTail);
  return sineKernel(reduced, reducedTail);
}

// The curves of dsp/antialiasedCurve.ts, by their place in SMOOTHED_CURVES.

const SOFT: i32 = 0;
const HARD: i32 = 1;
const FOLD: i32 = 2;
const ASYMMETRIC: i32 = 3;
const GRADUAL: i32 = 4;
const LOWER: f64 = 0.6;
const HALF_PI: f64 = 1.5707963267948966;
const FOLD_END: f64 = 5 * HALF_PI;

// A folded sound needs a sine for each sample, and goes through one at a time.

// @ts-ignore: decorator
@inline
function foldAt(x: f64): f64 {
  return x >= FOLD_END ? 1 : x <= -FOLD_END ? -1 : sin(x);
}

// @ts-ignore: decorator
@inline
function foldFirst(x: f64): f64 {
  const past = (x < 0 ? -x : x) - FOLD_END;
  return past > 0 ? 1 + past : 1 - cos(x);
}

// @ts-ignore: decorator
@inline
function foldSecond(x: f64): f64 {
  const m = x < 0 ? -x : x;
  const past = m - FOLD_END;
  const value = past > 0 ? FOLD_END - 1 + past + 0.5 * past * past : m - sin(m);
  return x < 0 ? -value : value;
}

const STEP: f64 = 1e-4;

/** As `AntialiasedCurve.process` with the fold. */
function shapeFold(state: usize, block: usize, length: i32): void {
  let x1 = load<f64>(state);
  let x2 = load<f64>(state, 8);
  let mean1 = load<f64>(state, 16);
  let second1 = foldSecond(x1);
  for (let i = 0; i < length; i++, block += DOUBLE) {
    const x = load<f64>(block);
    const least = STEP * (1 + (x1 < 0 ? -x1 : x1));
    const step = x - x1;
    const secondNow = foldSecond(x);
    const mean = step > least || step < -least ? (secondNow - second1) / step : foldFirst(0.5 * (x + x1));
    const span = x - x2;
    if (span > least || span < -least) {
      store<f64>(block, (2 * (mean - mean1)) / span);
    } else {
      const middle = 0.5 * (x + x2);
      const away = middle - x1;
      store<f64>(
        block,
        away > least || away < -least
          ? (2 / away) * (foldFirst(middle) + (second1 - foldSecond(middle)) / away)
          : foldAt(0.5 * (middle + x1)),
      );
    }
    x2 = x1;
    x1 = x;
    mean1 = mean;
    second1 = secondNow;
  }
  store<f64>(state, x1);
  store<f64>(state, x2, 8);
  store<f64>(state, mean1, 16);
}

// All other curves, two samples at a time.

// @ts-ignore: decorator
@inline
function pairOf(x: f64): v128 {
  return f64x2.splat(x);
}

// @ts-ignore: decorator
@inline
function choose(a: v128, b: v128, mask: v128): v128 {
  return v128.bitselect(a, b, mask);
}

/** First antiderivatives of a curve that is no fold at two places. */
// @ts-ignore: decorator
@inline
function firstOf(curve: i32, x: v128): v128 {
  let y = x;
  const below = f64x2.lt(x, pairOf(0));
  if (curve == ASYMMETRIC) y = choose(f64x2.mul(x, pairOf(1.0 / LOWER)), x, below);
  const m = f64x2.abs(y);
  if (curve == HARD) {
    return choose(f64x2.mul(f64x2.mul(pairOf(0.5), m), m), f64x2.sub(m, pairOf(0.5)), f64x2.le(m, pairOf(1)));
  }
  const square = f64x2.mul(m, m);
  if (curve == SOFT || curve == ASYMMETRIC) {
    const inside = f64x2.mul(square, f64x2.sub(pairOf(0.5), f64x2.mul(square, pairOf(1.0 / 27.0))));
    const value = choose(f64x2.sub(m, pairOf(0.5625)), inside, f64x2.ge(m, pairOf(1.5)));
    if (curve == SOFT) return value;
    return choose(f64x2.mul(pairOf(LOWER * LOWER), value), value, below);
  }
  const inside = f64x2.mul(square, f64x2.sub(pairOf(0.5), f64x2.mul(m, pairOf(1.0 / 12.0))));
  return choose(f64x2.sub(m, pairOf(2.0 / 3.0)), inside, f64x2.ge(m, pairOf(2)));
}

/** Second antiderivatives of a curve that is no fold at two places. */
// @ts-ignore: decorator
@inline
function secondOf(curve: i32, x: v128): v128 {
  let y = x;
  const below = f64x2.lt(x, pairOf(0));
  if (curve == ASYMMETRIC) y = choose(f64x2.mul(x, pairOf(1.0 / LOWER)), x, below);
  const m = f64x2.abs(y);
  let value: v128;
  if (curve == HARD) {
    const inside = f64x2.mul(f64x2.mul(f64x2.mul(m, m), m), pairOf(1.0 / 6.0));
    const over = f64x2.sub(m, pairOf(1));
    const half = f64x2.mul(pairOf(0.5), over);
    const outside = f64x2.add(f64x2.add(pairOf(1.0 / 6.0), half), f64x2.mul(half, over));
    value = choose(inside, outside, f64x2.le(m, pairOf(1)));
  } else if (curve == SOFT || curve == ASYMMETRIC) {
    const square = f64x2.mul(m, m);
    const outside = f64x2.add(
      f64x2.sub(f64x2.mul(pairOf(0.5), square), f64x2.mul(pairOf(0.5625), m)),
      pairOf(0.225),
    );
    const inside = f64x2.mul(
      f64x2.mul(m, square),
      f64x2.sub(pairOf(1.0 / 6.0), f64x2.mul(square, pairOf(1.0 / 135.0))),
    );
    value = choose(outside, inside, f64x2.ge(m, pairOf(1.5)));
  } else {
    const outside = f64x2.add(
      f64x2.sub(f64x2.mul(f64x2.mul(pairOf(0.5), m), m), f64x2.mul(pairOf(2.0 / 3.0), m)),
      pairOf(1.0 / 3.0),
    );
    const inside = f64x2.mul(
      f64x2.mul(f64x2.mul(m, m), m),
      f64x2.sub(pairOf(1.0 / 6.0), f64x2.mul(m, pairOf(1.0 / 48.0))),
    );
    value = choose(outside, inside, f64x2.ge(m, pairOf(2)));
  }
  const signed = choose(f64x2.neg(value), value, below);
  return curve == ASYMMETRIC ? choose(f64x2.mul(pairOf(LOWER * LOWER * LOWER), signed), signed, below) : signed;
}

/** A curve that is no fold at two places. */
// @ts-ignore: decorator
@inline
function atOf(curve: i32, x: v128): v128 {
  if (curve == HARD) {
    const inside = choose(pairOf(-1), x, f64x2.lt(x, pairOf(-1)));
    return choose(pairOf(1), inside, f64x2.gt(x, pairOf(1)));
  }
  if (curve == SOFT || curve == ASYMMETRIC) {
    let y = x;
    const below = f64x2.lt(x, pairOf(0));
    if (curve == ASYMMETRIC) y = choose(f64x2.mul(x, pairOf(1.0 / LOWER)), x, below);
    const cube = f64x2.mul(f64x2.mul(f64x2.mul(pairOf(4.0 / 27.0), y), y), y);
    const inside = choose(pairOf(-1), f64x2.sub(y, cube), f64x2.le(y, pairOf(-1.5)));
    const value = choose(pairOf(1), inside, f64x2.ge(y, pairOf(1.5)));
    return curve == SOFT ? value : choose(f64x2.mul(pairOf(LOWER), value), value, below);
  }
  const bent = f64x2.sub(x, f64x2.mul(f64x2.mul(pairOf(0.25), x), f64x2.abs(x)));
  const inside = choose(pairOf(-1), bent, f64x2.le(x, pairOf(-2)));
  return choose(pairOf(1), inside, f64x2.ge(x, pairOf(2)));
}

/** @param length even */
// @ts-ignore: decorator
@inline
function shapePairs(curve: i32, state: usize, block: usize, length: i32): void {
  // The samples before a pair and the one before that, their second antiderivatives and means: high lanes are newest.
  let before = v128.shuffle<f64>(v128.load_splat<f64>(state, 8), v128.load_splat<f64>(state), 0, 2);
  let secondBefore = secondOf(curve, v128.load_splat<f64>(state));
  let meanBefore = v128.load_splat<f64>(state, 16);
  for (let i = 0; i < length; i += 2, block += 2 * DOUBLE) {
    const x = v128.load(block);
    const x1 = v128.shuffle<f64>(before, x, 1, 2);
    const least = f64x2.mul(pairOf(STEP), f64x2.add(pairOf(1), f64x2.abs(x1)));
    const step = f64x2.sub(x, x1);
    const seconds = secondOf(curve, x);
    const seconds1 = v128.shuffle<f64>(secondBefore, seconds, 1, 2);
    const far = f64x2.gt(f64x2.abs(step), least);
    let means = f64x2.div(f64x2.sub(seconds, seconds1), step);
    if (!i64x2.all_true(far)) means = choose(means, firstOf(curve, f64x2.mul(pairOf(0.5), f64x2.add(x, x1))), far);
    const means1 = v128.shuffle<f64>(meanBefore, means, 1, 2);
    const span = f64x2.sub(x, before);
    const wide = f64x2.gt(f64x2.abs(span), least);
    let out = f64x2.div(f64x2.mul(pairOf(2), f64x2.sub(means, means1)), span);
    if (!i64x2.all_true(wide)) {
      const middle = f64x2.mul(pairOf(0.5), f64x2.add(x, before));
      const away = f64x2.sub(middle, x1);
      let near = atOf(curve, f64x2.mul(pairOf(0.5), f64x2.add(middle, x1)));
      const bent = f64x2.gt(f64x2.abs(away), least);
      if (v128.any_true(bent)) {
        const rest = f64x2.div(f64x2.sub(seconds1, secondOf(curve, middle)), away);
        const turned = f64x2.mul(f64x2.div(pairOf(2), away), f64x2.add(firstOf(curve, middle), rest));
        near = choose(turned, near, bent);
      }
      out = choose(out, near, wide);
    }
    v128.store(block, out);
    before = x;
    secondBefore = seconds;
    meanBefore = means;
  }
  store<f64>(state, f64x2.extract_lane(before, 1));
  store<f64>(state, f64x2.extract_lane(before, 0), 8);
  store<f64>(state, f64x2.extract_lane(meanBefore, 1), 16);
}

/** Multiplies each eight samples by the gain of their frame. */
function scale(frames: i32, gains: usize, inverse: bool): void {
  let to = EIGHT;
  for (let i = 0; i < frames; i++, gains += DOUBLE) {
    const gain = load<f64>(gains);
    const factor = f64x2.splat(inverse ? 1 / gain : gain);
    for (let n = 0; n < 4; n++, to += 2 * DOUBLE) v128.store(to, f64x2.mul(v128.load(to), factor));
  }
}

function bend(curve: i32, state: usize, frames: i32, gains: usize): void {
  scale(frames, gains, false);
  // One loop for each curve, so that none is asked for at every sample.
  if (curve == SOFT) shapePairs(SOFT, state, EIGHT, 8 * frames);
  else if (curve == HARD) shapePairs(HARD, state, EIGHT, 8 * frames);
  else if (curve == FOLD) shapeFold(state, EIGHT, 8 * frames);
  else if (curve == ASYMMETRIC) shapePairs(ASYMMETRIC, state, EIGHT, 8 * frames);
  else shapePairs(GRADUAL, state, EIGHT, 8 * frames);
  scale(frames, gains, true);
}

/** Sums of the taps on both sides of each centre of a line, eight centres at a time, into `SUMS`. */
// @ts-ignore: decorator
@inline
function sumTaps(pairs: i32, taps: usize, frames: i32): void {
  for (let i = 0; i < frames; i += 8) {
    let first = f64x2.splat(0);
    let second = f64x2.splat(0);
    let third = f64x2.splat(0);
    let fourth = f64x2.splat(0);
    let later = LINE + ((pairs + 1 + i) as usize) * DOUBLE;
    let earlier = LINE + ((pairs + i) as usize) * DOUBLE;
    for (let tap = 0; tap < pairs; tap++) {
      const weight = v128.load_splat<f64>(taps + (tap as usize) * DOUBLE);
      first = f64x2.add(first, f64x2.mul(weight, f64x2.add(v128.load(later), v128.load(earlier))));
      second = f64x2.add(second, f64x2.mul(weight, f64x2.add(v128.load(later, 16), v128.load(earlier, 16))));
      third = f64x2.add(third, f64x2.mul(weight, f64x2.add(v128.load(later, 32), v128.load(earlier, 32))));
      fourth = f64x2.add(fourth, f64x2.mul(weight, f64x2.add(v128.load(later, 48), v128.load(earlier, 48))));
      later += DOUBLE;
      earlier -= DOUBLE;
    }
    const to = SUMS + (i as usize) * DOUBLE;
    v128.store(to, first);
    v128.store(to, second, 16);
    v128.store(to, third, 32);
    v128.store(to, fourth, 48);
  }
}

/** As `HalfBandStage.up`; `held` are the last samples of the lower rate. */
// @ts-ignore: decorator
@inline
function up(pairs: i32, taps: usize, held: usize, block: usize, frames: i32, out: usize): void {
  const history = ((2 * pairs) as usize) * DOUBLE;
  memory.copy(LINE, held, history);
  memory.copy(LINE + history, block, (frames as usize) * DOUBLE);
  sumTaps(pairs, taps, frames);
  const two = f64x2.splat(2);
  for (let i = 0; i < frames; i += 2) {
    const from = (i as usize) * DOUBLE;
    const twice = f64x2.mul(two, v128.load(SUMS + from));
    const centres = v128.load(LINE + (pairs as usize) * DOUBLE + from);
    const to = out + 2 * from;
    v128.store(to, v128.shuffle<f64>(centres, twice, 0, 2));
    v128.store(to, v128.shuffle<f64>(centres, twice, 1, 3), 16);
  }
  memory.copy(held, LINE + (frames as usize) * DOUBLE, history);
}

/** As `HalfBandStage.down`; `heldEven` and `heldOdd` are the last samples of the higher rate, by turns. */
// @ts-ignore: decorator
@inline
function down(
  pairs: i32,
  taps: usize,
  heldEven: usize,
  heldOdd: usize,
  block: usize,
  frames: i32,
  out: usize,
): void {
  const history = ((2 * pairs) as usize) * DOUBLE;
  memory.copy(OTHER_LINE, heldEven, history);
  memory.copy(LINE, heldOdd, history);
  for (let i = 0; i < frames; i += 2) {
    const from = block + ((2 * i) as usize) * DOUBLE;
    const near = v128.load(from);
    const far = v128.load(from, 16);
    const to = history + (i as usize) * DOUBLE;
    v128.store(OTHER_LINE + to, v128.shuffle<f64>(near, far, 0, 2));
    v128.store(LINE + to, v128.shuffle<f64>(near, far, 1, 3));
  }
  sumTaps(pairs, taps, frames);
  const half = f64x2.splat(0.5);
  for (let i = 0; i < frames; i += 2) {
    const from = (i as usize) * DOUBLE;
    const even = v128.load(OTHER_LINE + ((pairs + 1) as usize) * DOUBLE + from);
    v128.store(out + from, f64x2.add(f64x2.mul(half, even), v128.load(SUMS + from)));
  }
  memory.copy(heldEven, OTHER_LINE + (frames as usize) * DOUBLE, history);
  memory.copy(heldOdd, LINE + (frames as usize) * DOUBLE, history);
}

/** As `DriveStage.pad`. */
function pad(length: i32, by: i32): void {
  const held = STATE + ((STAGES_HOLD + 2 * CURVE_HOLDS) as usize) * DOUBLE;
  const size = (HELD as usize) * DOUBLE;
  const late = (by as usize) * DOUBLE;
  memory.copy(LAST, EIGHT + (length as usize) * DOUBLE - size, size);
  memory.copy(EIGHT + late, EIGHT, (length as usize) * DOUBLE - late);
  memory.copy(EIGHT, held + size - late, late);
  memory.copy(held, LAST, size);
}

/**
 * A block of a drive, up to eight times the rate and down again: as `DriveStage`, less what that does at the lower rate.
 * @param frames 1 to 128
 * @param firstCurve,secondCurve places of the curves, below 0 for none
 */
export function drive(frames: i32, firstCurve: i32, secondCurve: i32): void {
  const outer = STATE;
  const middle = outer + ((6 * OUTER) as usize) * DOUBLE;
  const inner = middle + ((6 * MIDDLE) as usize) * DOUBLE;
  const curves = STATE + (STAGES_HOLD as usize) * DOUBLE;
  const outerHold = ((2 * OUTER) as usize) * DOUBLE;
  const middleHold = ((2 * MIDDLE) as usize) * DOUBLE;
  const innerHold = ((2 * INNER) as usize) * DOUBLE;
  const middleTaps = TAPS + (OUTER as usize) * DOUBLE;
  const innerTaps = middleTaps + (MIDDLE as usize) * DOUBLE;
  up(OUTER, TAPS, outer, BLOCK, frames, TWICE);
  up(MIDDLE, middleTaps, middle, TWICE, 2 * frames, FOUR);
  up(INNER, innerTaps, inner, FOUR, 4 * frames, EIGHT);
  let padding = HELD;
  if (firstCurve >= 0) {
    bend(firstCurve, curves, frames, FIRST_GAINS);
    padding--;
  }
  if (secondCurve >= 0) {
    bend(secondCurve, curves + (CURVE_HOLDS as usize) * DOUBLE, frames, SECOND_GAINS);
    padding--;
  }
  pad(8 * frames, padding);
  down(INNER, innerTaps, inner + innerHold, inner + 2 * innerHold, EIGHT, 4 * frames, FOUR);
  down(MIDDLE, middleTaps, middle + middleHold, middle + 2 * middleHold, FOUR, 2 * frames, TWICE);
  down(OUTER, TAPS, outer + outerHold, outer + 2 * outerHold, TWICE, frames, BLOCK);
}
