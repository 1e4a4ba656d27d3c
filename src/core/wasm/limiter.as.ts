// The look-ahead limiter of dsp/lookaheadLimiter.ts: inter-sample peaks four frames at a time, then the gain frame by frame.
import { LONGEST } from './blocks.as';
import { exp, log } from './elementary.as';

const FLOAT: usize = 4;
/** Pairs of taps of the interpolation filters of `truePeak.ts`, as many frames before as after the points they make. */
const STANDARD_PAIRS: i32 = 6;
const SHARP_PAIRS: i32 = 24;
const LONG_PAIRS: i32 = 71;
/** Frames by which a middle is late, and what is known of the peaks around a frame: quarter points need the next middle. */
const MIDDLE_LATENCY: i32 = LONG_PAIRS;
const LATENCY: i32 = MIDDLE_LATENCY + 1;
/** Samples of before that a side keeps, and what SIMD may read beyond the end of a block. */
const HISTORY: i32 = 2 * LATENCY + 8;
const SPARE: i32 = 8;
const SIDE: usize = ((HISTORY + LONGEST + SPARE) as usize) * FLOAT;
/** Fours of frames for which a sample counts: those whose points it has a part in. */
const REACH: i32 = (2 * LATENCY) / 4 + 1;
/** Frames after a peak for which its gain is held: samples that far away still have a part in it. */
const HOLD: i64 = LATENCY;

/** A reduction, as a natural logarithm, that counts as none. */
const NOTHING: f64 = -1e-7;

// Byte offsets in the state: doubles, whole numbers among them in frames; then the sides; then rings of `size` doubles.

const SIZE: usize = 0;
const LONGEST_WINDOW: usize = 8;
const WANTED_WINDOW: usize = 16;
const RELEASE: usize = 24;
const HIGHEST_RISE: usize = 32;
const MOST: usize = 40;
const FRAME: usize = 48;
const HEAD: usize = 56;
const TAIL: usize = 64;
const UNSEEN: usize = 72;
const WINDOW: usize = 80;
const SUM: usize = 88;
const RELEASED: usize = 96;
const RELEASING: usize = 104;
const SIDES: usize = 112;
const RINGS: usize = SIDES + 2 * SIDE;

/** Addresses of each filter's weights: four for a pair of the standard's, one for a pair of the others. */
const STANDARD_AT = memory.data((6 * 4 + 24 + 71 + 3) * 4, 16);
const SHARP_AT: usize = STANDARD_AT + (STANDARD_PAIRS as usize) * 4 * FLOAT;
const LONG_AT: usize = SHARP_AT + (SHARP_PAIRS as usize) * FLOAT;
const QUARTER_AT: usize = LONG_AT + (LONG_PAIRS as usize) * FLOAT;
/** Middles of a block by both filters, and of the four frames before it. */
const BEFORE: i32 = 4;
const SHARP_MIDDLES = memory.data((BEFORE + LONGEST + SPARE) * 4, 16);
const LONG_MIDDLES = memory.data((BEFORE + LONGEST + SPARE) * 4, 16);
const PEAKS = memory.data((LONGEST + SPARE) * 4, 16);

/** Address of the three filters' weights, as floats by pairs of taps, as `foldedWeights` gives them. */
export function peakWeights(): usize {
  return STANDARD_AT;
}

/** Bytes of the state before its five rings. */
export function limiterBytes(): usize {
  return RINGS;
}

/** |peak| of the parabola through three equally spaced values when the middle one is an extremum, else |middle|. */
@inline
function apex(a: v128, b: v128, c: v128): v128 {
  const nothing = f32x4.splat(0);
  const magnitude = f32x4.abs(b);
  const rise = f32x4.sub(b, a);
  const fall = f32x4.sub(b, c);
  const across = f32x4.sub(c, a);
  const bent = f32x4.gt(f32x4.mul(rise, fall), nothing);
  const outwards = f32x4.ge(f32x4.mul(rise, b), nothing);
  const shift = f32x4.div(across, f32x4.mul(f32x4.splat(2), f32x4.add(rise, fall)));
  const top = f32x4.abs(f32x4.add(b, f32x4.mul(f32x4.mul(f32x4.splat(0.25), across), shift)));
  return v128.bitselect(top, magnitude, v128.and(bent, outwards));
}

/** Adds a value times a weight of a filter. */
@inline
function plus(sum: v128, weights: usize, index: usize, x: v128): v128 {
  return f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + index * FLOAT), x));
}

/** Works out the middles after four frames, the first of them `MIDDLE_LATENCY` before frame `i` of the block. */
@inline
function addMiddles(line: usize, i: i32): void {
  let older = line + ((HISTORY + i - MIDDLE_LATENCY) as usize) * FLOAT;
  let newer = older + FLOAT;
  let sharp = f32x4.splat(0);
  let long = sharp;
  let weight: usize = 0;
  for (; weight < (SHARP_PAIRS as usize); weight++) {
    const sum = f32x4.add(v128.load(older), v128.load(newer));
    sharp = plus(sharp, SHARP_AT, weight, sum);
    long = plus(long, LONG_AT, weight, sum);
    older -= FLOAT;
    newer += FLOAT;
  }
  for (; weight < (LONG_PAIRS as usize); weight++) {
    long = plus(long, LONG_AT, weight, f32x4.add(v128.load(older), v128.load(newer)));
    older -= FLOAT;
    newer += FLOAT;
  }
  const to = ((BEFORE + i) as usize) * FLOAT;
  v128.store(SHARP_MIDDLES + to, sharp);
  v128.store(LONG_MIDDLES + to, long);
}

/** The largest magnitude of the standard's points after four frames. */
@inline
function standardPeak(onFrame: usize): v128 {
  let firstEven = f32x4.splat(0);
  let firstOdd = firstEven;
  let secondEven = firstEven;
  let secondOdd = firstEven;
  let older = onFrame;
  let newer = onFrame + FLOAT;
  let weights = STANDARD_AT;
  for (let pair = 0; pair < STANDARD_PAIRS; pair++) {
    const a = v128.load(older);
    const b = v128.load(newer);
    const sum = f32x4.add(a, b);
    const difference = f32x4.sub(a, b);
    firstEven = plus(firstEven, weights, 0, sum);
    firstOdd = plus(firstOdd, weights, 1, difference);
    secondEven = plus(secondEven, weights, 2, sum);
    secondOdd = plus(secondOdd, weights, 3, difference);
    weights += 4 * FLOAT;
    older -= FLOAT;
    newer += FLOAT;
  }
  return f32x4.pmax(mirroredPeak(firstEven, firstOdd), mirroredPeak(secondEven, secondOdd));
}

/** The larger magnitude of two mirrored points. */
@inline
function mirroredPeak(even: v128, odd: v128): v128 {
  return f32x4.pmax(f32x4.abs(f32x4.add(even, odd)), f32x4.abs(f32x4.sub(even, odd)));
}

/** The point half-way between the two nearest of six at twice the rate, the oldest first. */
@inline
function quarter(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128): v128 {
  let sum = f32x4.mul(v128.load32_splat(QUARTER_AT), f32x4.add(c, d));
  sum = plus(sum, QUARTER_AT, 1, f32x4.add(b, e));
  return plus(sum, QUARTER_AT, 2, f32x4.add(a, f));
}

/**
 * The highest of the parabolas around four frames, from half a frame before each to the last point after it.
 * @param middles where those after the frames are
 * @param onFrame where the frames are
 */
@inline
function parabolaPeak(middles: usize, onFrame: usize): v128 {
  const middleBefore = v128.load(middles - FLOAT);
  const middle = v128.load(middles);
  const middleAfter = v128.load(middles + FLOAT);
  const before = v128.load(onFrame - FLOAT);
  const x = v128.load(onFrame);
  const after = v128.load(onFrame + FLOAT);
  const third = v128.load(onFrame + 2 * FLOAT);
  const nearest = quarter(v128.load(middles - 2 * FLOAT), before, middleBefore, x, middle, after);
  const first = quarter(before, middleBefore, x, middle, after, middleAfter);
  const last = quarter(middleBefore, x, middle, after, middleAfter, third);
  const near = f32x4.pmax(apex(middleBefore, nearest, x), apex(nearest, x, first));
  return f32x4.pmax(near, f32x4.pmax(apex(x, first, middle), apex(first, middle, last)));
}

/** Takes into `PEAKS` the largest magnitudes that the filters find on a side, of frames that are near loud ones. */
function addPeaks(line: usize, frames: i32, least: f32): void {
  const threshold = f32x4.splat(least);
  // False after a group of four frames was skipped: its samples between frames are then computed for the next group.
  let followed = false;
  let loud = 0;
  for (let i = -HISTORY; i < frames; i += 4) {
    const newest = line + ((HISTORY + i) as usize) * FLOAT;
    if (v128.any_true(f32x4.ge(f32x4.abs(v128.load(newest)), threshold))) loud = REACH + 1;
    loud--;
    if (i < 0) continue;
    if (loud < 0) {
      followed = false;
      continue;
    }
    if (!followed) addMiddles(line, i - 4);
    addMiddles(line, i);
    followed = true;
    const onFrame = newest - (LATENCY as usize) * FLOAT;
    // The middle after that frame was the last of the four before.
    const middles = ((BEFORE + i - 1) as usize) * FLOAT;
    const sharp = parabolaPeak(SHARP_MIDDLES + middles, onFrame);
    const long = parabolaPeak(LONG_MIDDLES + middles, onFrame);
    const to = PEAKS + (i as usize) * FLOAT;
    v128.store(to, f32x4.pmax(v128.load(to), f32x4.pmax(standardPeak(onFrame), f32x4.pmax(sharp, long))));
  }
}

/** Takes a block into the line of a side and its peaks into `PEAKS`. */
function takePeaks(line: usize, block: usize, frames: i32, least: f32): void {
  const to = line + (HISTORY as usize) * FLOAT;
  for (let i = 0; i < frames; i++) store<f32>(to + ((i as usize) << 2), load<f64>(block + ((i as usize) << 3)) as f32);
  // Beyond the block are samples of before, which tell nothing.
  for (let i = frames; i < frames + 4; i++) store<f32>(to + ((i as usize) << 2), 0);
  addPeaks(line, frames, least);
  memory.copy(line, line + ((frames as usize) << 2), (HISTORY as usize) * FLOAT);
}

/** Bytes of the line that `truePeak` keeps of a channel. */
export function peakBytes(): usize {
  return SIDE;
}

/**
 * The largest magnitude between the samples of a channel, up to `LATENCY` frames before its last.
 * @param line what is kept from block to block, silent at first
 * @param block doubles
 * @param least samples under this are not looked at
 */
export function truePeak(line: usize, block: usize, frames: i32, least: f32): f32 {
  memory.fill(PEAKS, 0, ((frames + 4) as usize) * FLOAT);
  takePeaks(line, block, frames, least);
  let most: f32 = 0;
  for (let i = 0; i < frames; i++) most = max<f32>(most, load<f32>(PEAKS + ((i as usize) << 2)));
  return most;
}

@inline
function slot(ring: usize, frame: i64, mask: i64): usize {
  return ring + (((frame & mask) as usize) << 3);
}

/**
 * Limits both sides in place: see `LookaheadLimiter`.
 * @param state what it holds, as laid out above
 * @param left,right doubles
 * @param ceilings true peak that is not passed, for each frame
 * @param floor peaks under this are none; at most the least of the ceilings
 */
export function limit(state: usize, left: usize, right: usize, ceilings: usize, floor: f64, frames: i32): void {
  const size = load<f64>(state, SIZE) as i64;
  const mask = size - 1;
  const bytes = (size as usize) << 3;
  const sounds = state + RINGS;
  const others = sounds + bytes;
  const needed = others + bytes;
  const queue = needed + bytes;
  const held = queue + bytes;
  const longest = load<f64>(state, LONGEST_WINDOW) as i64;
  const wanted = load<f64>(state, WANTED_WINDOW) as i64;
  const release = load<f64>(state, RELEASE);
  let frame = load<f64>(state, FRAME) as i64;
  let head = load<f64>(state, HEAD) as i64;
  let tail = load<f64>(state, TAIL) as i64;
  let unseen = load<f64>(state, UNSEEN) as i64;
  let window = load<f64>(state, WINDOW) as i64;
  let sum = load<f64>(state, SUM);
  let released = load<f64>(state, RELEASED);
  let releasing = load<f64>(state, RELEASING);
  let most: f64 = 1;
  memory.fill(PEAKS, 0, ((frames + 4) as usize) * FLOAT);
  const least = (floor / load<f64>(state, HIGHEST_RISE)) as f32;
  takePeaks(state + SIDES, left, frames, least);
  takePeaks(state + SIDES + SIDE, right, frames, least);
  for (let i = 0; i < frames; i++, frame++) {
    const at = (i as usize) << 3;
    store<f64>(slot(sounds, frame, mask), load<f64>(left + at));
    store<f64>(slot(others, frame, mask), load<f64>(right + at));
    const peak = load<f32>(PEAKS + ((i as usize) << 2)) as f64;
    const ceiling = load<f64>(ceilings + at);
    store<f64>(slot(needed, frame, mask), peak > ceiling ? ceiling / peak : 1);
    // The look-ahead moves to the wanted one by a frame a frame.
    if (window < wanted) {
      window++;
      sum += load<f64>(slot(held, frame - window, mask));
    } else if (window > wanted) {
      sum -= load<f64>(slot(held, frame - window, mask));
      window--;
    }
    // The reduction is worked out one look-ahead before the sound leaves; shorter ones wait.
    const now = frame - (longest - window);
    for (; unseen <= now; unseen++) {
      const need = load<f64>(slot(needed, unseen, mask));
      while (tail > head && load<f64>(slot(needed, load<f64>(slot(queue, tail - 1, mask)) as i64, mask)) >= need)
        tail--;
      store<f64>(slot(queue, tail, mask), unseen as f64);
      tail++;
    }
    while ((load<f64>(slot(queue, head, mask)) as i64) < now - window - HOLD) head++;
    const lowest = load<f64>(slot(needed, load<f64>(slot(queue, head, mask)) as i64, mask));
    if (releasing < 0 || lowest < 1) {
      const rising = releasing * release;
      const risen = rising > NOTHING ? 1 : exp(rising);
      if (lowest < risen) {
        // The hold value changes rarely: its logarithm is cached.
        if (lowest != released) releasing = log(lowest);
        released = lowest;
      } else {
        releasing = risen == 1 ? 0 : rising;
        released = risen;
      }
    }
    store<f64>(slot(held, frame, mask), released);
    sum += released - load<f64>(slot(held, frame - window, mask));
    const reduction = min<f64>(1, sum / (window as f64));
    if (reduction < most) most = reduction;
    const leaves = frame - longest - (LATENCY as i64);
    store<f64>(left + at, load<f64>(slot(sounds, leaves, mask)) * reduction);
    store<f64>(right + at, load<f64>(slot(others, leaves, mask)) * reduction);
  }
  store<f64>(state, most, MOST);
  store<f64>(state, frame as f64, FRAME);
  store<f64>(state, head as f64, HEAD);
  store<f64>(state, tail as f64, TAIL);
  store<f64>(state, unseen as f64, UNSEEN);
  store<f64>(state, window as f64, WINDOW);
  store<f64>(state, sum, SUM);
  store<f64>(state, released, RELEASED);
  store<f64>(state, releasing, RELEASING);
}
