import { LONGEST, TINY } from './blocks.as';
import { bend, FLOOR, splat } from './curves.as';

const FLOAT: usize = 4;
/** Bytes that SIMD may read and write beyond the end of a block. */
const SPARE: i32 = 8;

/** Pairs of taps of the three half-band stages of a drive, from the outside in. */
const OUTER: i32 = 20;
const MIDDLE: i32 = 6;
const INNER: i32 = 4;
/** Frames by which a drive is late. */
const LATENCY: i32 = 47;
/** Samples at eight and at four times the rate that are held back so that the latency is whole. */
const HELD_OF_EIGHT: i32 = 6;
const HELD_OF_FOUR: i32 = 10;

// State of a drive, in byte offsets: see dsp/driveStage.ts.

const OFFSET_IN: usize = 0;
const OFFSET_OUT: usize = 8;
const CURVES: usize = 16;
const CURVE_HOLDS: usize = 8;
const PADDING: usize = CURVES + 2 * CURVE_HOLDS;
const CLEAN: usize = PADDING + 12 * FLOAT;
const STAGES: usize = CLEAN + 48 * FLOAT;

const TAPS = memory.data((OUTER + MIDDLE + INNER) * 4, 16);
const TWICE = memory.data((2 * LONGEST + 2 * SPARE) * 4, 16);
const FOUR = memory.data((4 * LONGEST + 4 * SPARE) * 4, 16);
const EIGHT = memory.data((8 * LONGEST + 8 * SPARE) * 4, 16);
const ONCE = memory.data((LONGEST + SPARE) * 4, 16);
const UNTOUCHED = memory.data((LONGEST + LATENCY + SPARE) * 4, 16);
const LINE = memory.data((8 * LONGEST + 2 * OUTER + 2 * SPARE) * 4, 16);
const OTHER_LINE = memory.data((4 * LONGEST + 2 * OUTER + 2 * SPARE) * 4, 16);
const SUMS = memory.data((4 * LONGEST + 2 * SPARE) * 4, 16);

/** Address of the stages' taps, as floats, from the outside in. */
export function driveTaps(): usize {
  return TAPS;
}

/** Copies floats, up to three more than asked for: short ones are done sooner so than by `memory.copy`. */
@inline
function copy(to: usize, from: usize, bytes: usize): void {
  for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, v128.load(from + i));
}

/** Sums of the taps on both sides of each centre of a line, eight centres at a time, into `SUMS`. */
@inline
function sumTaps(pairs: i32, taps: usize, frames: i32): void {
  for (let i = 0; i < frames; i += 8) {
    let first = splat(0);
    let second = splat(0);
    let later = LINE + ((pairs + 1 + i) as usize) * FLOAT;
    let before = LINE + ((pairs + i) as usize) * FLOAT;
    for (let tap = 0; tap < pairs; tap++) {
      const weight = v128.load32_splat(taps + (tap as usize) * FLOAT);
      first = f32x4.add(first, f32x4.mul(weight, f32x4.add(v128.load(later), v128.load(before))));
      second = f32x4.add(second, f32x4.mul(weight, f32x4.add(v128.load(later, 16), v128.load(before, 16))));
      later += FLOAT;
      before -= FLOAT;
    }
    const to = SUMS + (i as usize) * FLOAT;
    v128.store(to, first);
    v128.store(to, second, 16);
  }
}

/** As `HalfBandTwin.up`; `held` are the last samples of the lower rate. */
@inline
function up(pairs: i32, taps: usize, held: usize, block: usize, frames: i32, out: usize): void {
  const history = ((2 * pairs) as usize) * FLOAT;
  copy(LINE, held, history);
  copy(LINE + history, block, (frames as usize) * FLOAT);
  sumTaps(pairs, taps, frames);
  const two = splat(2);
  for (let i = 0; i < frames; i += 4) {
    const from = (i as usize) * FLOAT;
    const twice = f32x4.mul(two, v128.load(SUMS + from));
    const centres = v128.load(LINE + (pairs as usize) * FLOAT + from);
    const to = out + 2 * from;
    v128.store(to, v128.shuffle<f32>(centres, twice, 0, 4, 1, 5));
    v128.store(to, v128.shuffle<f32>(centres, twice, 2, 6, 3, 7), 16);
  }
  copy(held, LINE + (frames as usize) * FLOAT, history);
}

/** As `HalfBandTwin.down`; `heldEven` and `heldOdd` are the last samples of the higher rate, by turns. */
@inline
function down(pairs: i32, taps: usize, heldEven: usize, heldOdd: usize, block: usize, frames: i32, out: usize): void {
  const history = ((2 * pairs) as usize) * FLOAT;
  copy(OTHER_LINE, heldEven, history);
  copy(LINE, heldOdd, history);
  for (let i = 0; i < frames; i += 4) {
    const from = block + ((2 * i) as usize) * FLOAT;
    const near = v128.load(from);
    const far = v128.load(from, 16);
    const to = history + (i as usize) * FLOAT;
    v128.store(OTHER_LINE + to, v128.shuffle<f32>(near, far, 0, 2, 4, 6));
    v128.store(LINE + to, v128.shuffle<f32>(near, far, 1, 3, 5, 7));
  }
  sumTaps(pairs, taps, frames);
  const half = splat(0.5);
  for (let i = 0; i < frames; i += 4) {
    const from = (i as usize) * FLOAT;
    const even = v128.load(OTHER_LINE + ((pairs + 1) as usize) * FLOAT + from);
    v128.store(out + from, f32x4.add(f32x4.mul(half, even), v128.load(SUMS + from)));
  }
  copy(heldEven, OTHER_LINE + (frames as usize) * FLOAT, history);
  copy(heldOdd, LINE + (frames as usize) * FLOAT, history);
}

/** As `DriveTwin.pad`. */
function pad(held: usize, peak: usize, length: i32, most: i32, by: i32): void {
  const size = (most as usize) * FLOAT;
  const back = (by as usize) * FLOAT;
  const all = (length as usize) * FLOAT;
  // The history and the block in a row, moved on by the delay.
  copy(LINE, held, size);
  copy(LINE + size, peak, all);
  copy(peak, LINE + size - back, all);
  copy(held, LINE + all, size);
}

/**
 * A block of a drive in place: as `DriveTwin.process`.
 * @param state what the drive holds
 * @param block doubles
 * @param frames 1 to LONGEST
 * @param rate 4 or 8 times the rate
 * @param firstCurve,secondCurve places of the curves, below 0 for none
 * @param firstGains,secondGains,amounts doubles for each frame
 * @param offsetPole of what takes offsets out, below 0 where nothing does
 */
export function drive(
  state: usize,
  block: usize,
  frames: i32,
  rate: i32,
  firstCurve: i32,
  secondCurve: i32,
  firstGains: usize,
  secondGains: usize,
  amounts: usize,
  offsetPole: f64,
): void {
  const outer = state + STAGES;
  const middle = outer + ((6 * OUTER) as usize) * FLOAT;
  const inner = middle + ((6 * MIDDLE) as usize) * FLOAT;
  const outerHold = ((2 * OUTER) as usize) * FLOAT;
  const middleHold = ((2 * MIDDLE) as usize) * FLOAT;
  const innerHold = ((2 * INNER) as usize) * FLOAT;
  const middleTaps = TAPS + (OUTER as usize) * FLOAT;
  const innerTaps = middleTaps + (MIDDLE as usize) * FLOAT;
  const late = (LATENCY as usize) * FLOAT;
  copy(UNTOUCHED, state + CLEAN, late);
  for (let i = 0; i < frames; i++) {
    const x = load<f64>(block + ((i as usize) << 3)) as f32;
    store<f32>(UNTOUCHED + late + ((i as usize) << 2), x);
    store<f32>(ONCE + ((i as usize) << 2), x + FLOOR - FLOOR);
  }
  copy(state + CLEAN, UNTOUCHED + (frames as usize) * FLOAT, late);
  up(OUTER, TAPS, outer, ONCE, frames, TWICE);
  up(MIDDLE, middleTaps, middle, TWICE, 2 * frames, FOUR);
  const peak = rate == 8 ? EIGHT : FOUR;
  if (rate == 8) up(INNER, innerTaps, inner, FOUR, 4 * frames, EIGHT);
  const most = rate == 8 ? HELD_OF_EIGHT : HELD_OF_FOUR;
  let padding = most;
  if (firstCurve >= 0) {
    bend(firstCurve, state + CURVES, peak, rate, frames, firstGains);
    padding--;
  }
  if (secondCurve >= 0) {
    bend(secondCurve, state + CURVES + CURVE_HOLDS, peak, rate, frames, secondGains);
    padding--;
  }
  pad(state + PADDING, peak, rate * frames, most, padding);
  if (rate == 8) down(INNER, innerTaps, inner + innerHold, inner + 2 * innerHold, EIGHT, 4 * frames, FOUR);
  down(MIDDLE, middleTaps, middle + middleHold, middle + 2 * middleHold, FOUR, 2 * frames, TWICE);
  down(OUTER, TAPS, outer + outerHold, outer + 2 * outerHold, TWICE, frames, ONCE);
  let offsetIn = load<f64>(state, OFFSET_IN);
  let offsetOut = load<f64>(state, OFFSET_OUT);
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 3;
    let driven = load<f32>(ONCE + ((i as usize) << 2)) as f64;
    if (offsetPole >= 0) {
      offsetOut = driven - offsetIn + offsetPole * offsetOut + TINY - TINY;
      offsetIn = driven;
      driven = offsetOut;
    }
    const amount = load<f64>(amounts + at);
    const untouched = load<f32>(UNTOUCHED + ((i as usize) << 2)) as f64;
    store<f64>(block + at, amount == 1 ? driven : untouched + amount * (driven - untouched));
  }
  store<f64>(state, offsetIn, OFFSET_IN);
  store<f64>(state, offsetOut, OFFSET_OUT);
}
