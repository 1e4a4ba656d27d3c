// The look-ahead limiter of dsp/lookaheadLimiter.ts: inter-sample peaks four frames at a time, then the gain frame by frame.
import { LONGEST } from './blocks.as';
import { exp, log } from './elementary.as';

const FLOAT: usize = 4;
/** Points worked out between two samples. */
const BETWEEN: usize = 3;
/** Taps of the interpolation filters, and the frames by which what they tell is late. */
const METER_TAPS: i32 = 24;
const SHARP_TAPS: i32 = 48;
const LATENCY: i32 = SHARP_TAPS / 2;
/** Samples of before that a side keeps, and what SIMD may read beyond the end of a block. */
const HISTORY: i32 = SHARP_TAPS + 4;
const SPARE: i32 = 8;
const SIDE: usize = ((HISTORY + LONGEST + SPARE) as usize) * FLOAT;
/** Fours of frames for which a sample counts: those whose points it has a part in. */
const REACH: i32 = SHARP_TAPS / 4 + 1;
/** How far the parabola through three points may rise over them. */
const PARABOLA: f32 = 1.25;

/** A reduction, as a natural logarithm, that counts as none. */
const NOTHING: f64 = -1e-7;

// What the state holds, in bytes: doubles, of which the whole numbers count frames; then the sides; then rings of `size` doubles.

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

const WEIGHTS = memory.data((METER_TAPS + SHARP_TAPS) * 3 * 4, 16);
const PEAKS = memory.data((LONGEST + SPARE) * 4, 16);

/** Where the weights of both filters go, as floats, [tap][point], those of the meter first. */
export function peakWeights(): usize {
  return WEIGHTS;
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

/** The values of a point of four frames, one frame earlier: `before` has that of the frame ahead of them in its last lane. */
@inline
function earlier(before: v128, now: v128): v128 {
  return v128.shuffle<f32>(before, now, 3, 4, 5, 6);
}

/** One of the points between samples, of four frames whose newest samples begin at `newest`. */
@inline
function pointAt(newest: usize, weights: usize, taps: i32): v128 {
  let sum = f32x4.splat(0);
  for (let tap = 0; tap < taps; tap++) {
    sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights), v128.load(newest)));
    weights += BETWEEN * FLOAT;
    newest -= FLOAT;
  }
  return sum;
}

/** Takes into `PEAKS` the largest magnitudes that one filter finds on a side, of frames that are near loud ones. */
@inline
function addPeaks(line: usize, frames: i32, least: f32, weights: usize, taps: i32): void {
  const late = ((LATENCY - taps / 2) as usize) * FLOAT;
  const threshold = f32x4.splat(least);
  let second = f32x4.splat(0);
  let third = f32x4.splat(0);
  // Where the four frames before have been left out, what they end with is worked out for the next.
  let followed = false;
  let loud = 0;
  for (let i = -HISTORY; i < frames; i += 4) {
    const at = line + ((HISTORY + i) as usize) * FLOAT;
    if (v128.any_true(f32x4.ge(f32x4.abs(v128.load(at)), threshold))) loud = REACH + 1;
    loud--;
    if (i < 0) continue;
    if (loud < 0) {
      followed = false;
      continue;
    }
    const newest = at - late;
    if (!followed) {
      second = pointAt(newest - 4 * FLOAT, weights + FLOAT, taps);
      third = pointAt(newest - 4 * FLOAT, weights + 2 * FLOAT, taps);
    }
    followed = true;
    let first = f32x4.splat(0);
    let middle = first;
    let last = first;
    let from = newest;
    for (let tap = 0, weight = weights; tap < taps; tap++) {
      const x = v128.load(from);
      first = f32x4.add(first, f32x4.mul(v128.load32_splat(weight), x));
      middle = f32x4.add(middle, f32x4.mul(v128.load32_splat(weight, 4), x));
      last = f32x4.add(last, f32x4.mul(v128.load32_splat(weight, 8), x));
      weight += BETWEEN * FLOAT;
      from -= FLOAT;
    }
    const before = earlier(second, middle);
    const nearest = earlier(third, last);
    const onFrame = v128.load(at - (LATENCY as usize) * FLOAT);
    const near = f32x4.pmax(apex(before, nearest, onFrame), apex(nearest, onFrame, first));
    const far = f32x4.pmax(apex(onFrame, first, middle), apex(first, middle, last));
    const to = PEAKS + (i as usize) * FLOAT;
    v128.store(to, f32x4.pmax(v128.load(to), f32x4.pmax(near, far)));
    second = middle;
    third = last;
  }
}

/** Takes a block into the line of a side and its peaks into `PEAKS`. */
function takePeaks(line: usize, block: usize, frames: i32, least: f32): void {
  const to = line + (HISTORY as usize) * FLOAT;
  for (let i = 0; i < frames; i++) store<f32>(to + ((i as usize) << 2), load<f64>(block + ((i as usize) << 3)) as f32);
  // Beyond the block are samples of before, which tell nothing.
  for (let i = frames; i < frames + 4; i++) store<f32>(to + ((i as usize) << 2), 0);
  addPeaks(line, frames, least, WEIGHTS, METER_TAPS);
  addPeaks(line, frames, least, WEIGHTS + (METER_TAPS as usize) * BETWEEN * FLOAT, SHARP_TAPS);
  memory.copy(line, line + ((frames as usize) << 2), (HISTORY as usize) * FLOAT);
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
  const least = (floor / (load<f64>(state, HIGHEST_RISE) * (PARABOLA as f64))) as f32;
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
      while (tail > head && load<f64>(slot(needed, load<f64>(slot(queue, tail - 1, mask)) as i64, mask)) >= need) tail--;
      store<f64>(slot(queue, tail, mask), unseen as f64);
      tail++;
    }
    while ((load<f64>(slot(queue, head, mask)) as i64) < now - window) head++;
    const lowest = load<f64>(slot(needed, load<f64>(slot(queue, head, mask)) as i64, mask));
    if (releasing < 0 || lowest < 1) {
      const rising = releasing * release;
      const risen = rising > NOTHING ? 1 : exp(rising);
      if (lowest < risen) {
        // What is held stays the same for long: its logarithm is worked out once.
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
