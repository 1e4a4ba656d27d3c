// A feedback delay network of lines by pairs: doubles of two lines stand beside one another, frame after frame.
import { readRing, readWhole } from './ring.as';

const TAPS: i32 = 16;
/** Bytes from the block of one pair of lines to that of the next: a block of frames, and a cache line beside it. */
const PAIR: usize = 128 * 16 + 64;
/** Bytes of a band of a pair of lines: b0, b1, b2, a1, a2, their steps, and two states, by pairs. */
const BAND: usize = 192;
const STEPS: usize = 80;
const STATES: usize = 160;

/** Bytes of a pair of lines in the table of filters: gain and its step by pairs, then `bands` bands. */
@inline
function tableBytes(bands: i32): usize {
  return 32 + (bands as usize) * BAND;
}

function readLine(ring: usize, size: i32, index: i32, delays: usize, offset: i32, frames: i32, out: usize): void {
  const from = load<f64>(delays);
  const step = load<f64>(delays, 8);
  if (step == 0 && Math.floor(from) == from) readWhole(ring, size, index, from as i32, frames, out);
  else readRing(ring, size, index, from, step, offset, 0, frames, out);
}

/**
 * Reads all lines into the blocks of their pairs.
 * @param rings floats, `stride` bytes for each line, as in `readRing`
 * @param delays of each line by doubles: delay and its step by frame, twice; the second is what is crossfaded to
 * @param offset frames since delays and fade were told
 * @param fading a bit for each line that crossfades
 * @param fade,fadeStep how far, and how much further by frame
 * @param scratch two blocks of doubles with room for three more each
 */
export function readNetwork(
  rings: usize,
  stride: i32,
  size: i32,
  index: i32,
  lines: i32,
  delays: usize,
  offset: i32,
  fading: i32,
  fade: f64,
  fadeStep: f64,
  frames: i32,
  blocks: usize,
  scratch: usize,
): void {
  const other = scratch + 132 * 8;
  for (let line = 0; line < lines; line++) {
    const ring = rings + (line as usize) * (stride as usize);
    const places = delays + ((line as usize) << 5);
    const out = blocks + ((line >> 1) as usize) * PAIR + ((line & 1) as usize) * 8;
    readLine(ring, size, index, places, offset, frames, scratch);
    if ((fading >> line) & 1) {
      readLine(ring, size, index, places + 16, offset, frames, other);
      for (let i = 0; i < frames; i++) {
        const at = (i as usize) << 3;
        const share = fade + fadeStep * ((offset + i) as f64);
        const old = load<f64>(scratch + at);
        store<f64>(out + (at << 1), old + share * (load<f64>(other + at) - old));
      }
    } else {
      for (let i = 0; i < frames; i++) {
        const at = (i as usize) << 3;
        store<f64>(out + (at << 1), load<f64>(scratch + at));
      }
    }
  }
}

/**
 * Puts a moving share of two reads of its own in the place of a line: a change of pitch by two windows half a turn apart.
 * @param taps by doubles: delay, its step, weight, its step, of each of the two
 * @param amount,amountStep how much of it, and how much more by frame
 */
export function shiftLine(
  ring: usize,
  size: i32,
  index: i32,
  taps: usize,
  offset: i32,
  amount: f64,
  amountStep: f64,
  frames: i32,
  block: usize,
  scratch: usize,
): void {
  const other = scratch + 132 * 8;
  readLine(ring, size, index, taps, offset, frames, scratch);
  readLine(ring, size, index, taps + 32, offset, frames, other);
  const weight = load<f64>(taps, 16);
  const weightStep = load<f64>(taps, 24);
  const otherWeight = load<f64>(taps, 48);
  const otherStep = load<f64>(taps, 56);
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 3;
    const n = (offset + i) as f64;
    const first = (weight + weightStep * n) * load<f64>(scratch + at);
    const shifted = first + (otherWeight + otherStep * n) * load<f64>(other + at);
    const plain = load<f64>(block + (at << 1));
    store<f64>(block + (at << 1), plain + (amount + amountStep * n) * (shifted - plain));
  }
}

@inline
function filterFour(at: usize, block: usize, bytes: usize, frames: i32): void {
  const secondAt = at + bytes;
  const thirdAt = secondAt + bytes;
  const fourthAt = thirdAt + bytes;
  let s1a = v128.load(at, STATES);
  let s2a = v128.load(at, STATES + 16);
  let s1b = v128.load(secondAt, STATES);
  let s2b = v128.load(secondAt, STATES + 16);
  let s1c = v128.load(thirdAt, STATES);
  let s2c = v128.load(thirdAt, STATES + 16);
  let s1d = v128.load(fourthAt, STATES);
  let s2d = v128.load(fourthAt, STATES + 16);
  for (let i = 0; i < frames; i++, block += 16) {
    const xa = v128.load(block);
    const xb = v128.load(block, PAIR);
    const xc = v128.load(block, 2 * PAIR);
    const xd = v128.load(block, 3 * PAIR);
    const ya = f64x2.add(f64x2.mul(v128.load(at), xa), s1a);
    const yb = f64x2.add(f64x2.mul(v128.load(secondAt), xb), s1b);
    const yc = f64x2.add(f64x2.mul(v128.load(thirdAt), xc), s1c);
    const yd = f64x2.add(f64x2.mul(v128.load(fourthAt), xd), s1d);
    s1a = next(at, xa, ya, s2a);
    s1b = next(secondAt, xb, yb, s2b);
    s1c = next(thirdAt, xc, yc, s2c);
    s1d = next(fourthAt, xd, yd, s2d);
    s2a = last(at, xa, ya);
    s2b = last(secondAt, xb, yb);
    s2c = last(thirdAt, xc, yc);
    s2d = last(fourthAt, xd, yd);
    v128.store(block, ya);
    v128.store(block, yb, PAIR);
    v128.store(block, yc, 2 * PAIR);
    v128.store(block, yd, 3 * PAIR);
  }
  v128.store(at, s1a, STATES);
  v128.store(at, s2a, STATES + 16);
  v128.store(secondAt, s1b, STATES);
  v128.store(secondAt, s2b, STATES + 16);
  v128.store(thirdAt, s1c, STATES);
  v128.store(thirdAt, s2c, STATES + 16);
  v128.store(fourthAt, s1d, STATES);
  v128.store(fourthAt, s2d, STATES + 16);
}

/** The first state of a transposed second-order section after a frame. */
@inline
function next(at: usize, x: v128, y: v128, second: v128): v128 {
  return f64x2.add(f64x2.sub(f64x2.mul(v128.load(at, 16), x), f64x2.mul(v128.load(at, 48), y)), second);
}

@inline
function last(at: usize, x: v128, y: v128): v128 {
  return f64x2.sub(f64x2.mul(v128.load(at, 32), x), f64x2.mul(v128.load(at, 64), y));
}

/** One band of one pair, its coefficients moving by a step ahead of every frame. */
function filterMoving(at: usize, block: usize, frames: i32): void {
  let s1 = v128.load(at, STATES);
  let s2 = v128.load(at, STATES + 16);
  for (let i = 0; i < frames; i++, block += 16) {
    for (let n: usize = 0; n < 80; n += 16) {
      v128.store(at + n, f64x2.add(v128.load(at + n), v128.load(at + n, STEPS)));
    }
    const x = v128.load(block);
    const y = f64x2.add(f64x2.mul(v128.load(at), x), s1);
    s1 = next(at, x, y, s2);
    s2 = last(at, x, y);
    v128.store(block, y);
  }
  v128.store(at, s1, STATES);
  v128.store(at, s2, STATES + 16);
}

/**
 * Sends each line through its gain and its second-order sections.
 * @param table of filters, `bands` a pair, of which those in `order`, whole numbers of 32 bits, are in use
 * @param moving whether gains and coefficients step on with every frame
 */
export function filterNetwork(
  blocks: usize,
  pairs: i32,
  table: usize,
  bands: i32,
  order: usize,
  used: i32,
  moving: bool,
  frames: i32,
): void {
  const bytes = tableBytes(bands);
  for (let pair = 0; pair < pairs; pair++) {
    const at = table + (pair as usize) * bytes;
    const block = blocks + (pair as usize) * PAIR;
    let gain = v128.load(at);
    const step = v128.load(at, 16);
    for (let i = 0; i < frames; i++) {
      if (moving) gain = f64x2.add(gain, step);
      const place = block + ((i as usize) << 4);
      v128.store(place, f64x2.mul(v128.load(place), gain));
    }
    v128.store(at, gain);
  }
  for (let n = 0; n < used; n++) {
    const band: usize = (load<i32>(order + ((n as usize) << 2)) as usize) * BAND + 32;
    if (moving) {
      for (let pair = 0; pair < pairs; pair++) {
        filterMoving(table + (pair as usize) * bytes + band, blocks + (pair as usize) * PAIR, frames);
      }
    } else {
      for (let pair = 0; pair < pairs; pair += 4) {
        filterFour(table + (pair as usize) * bytes + band, blocks + (pair as usize) * PAIR, bytes, frames);
      }
    }
  }
}

/** Leaves out of the filters' states what is too small for the machine to be quick with it. */
export function settleNetwork(table: usize, pairs: i32, bands: i32): void {
  const tiny = f64x2.splat(1e-20);
  for (let pair = 0; pair < pairs; pair++) {
    const first = table + (pair as usize) * tableBytes(bands) + 32 + STATES;
    for (let band = 0; band < bands; band++) {
      const at = first + (band as usize) * BAND;
      v128.store(at, f64x2.sub(f64x2.add(v128.load(at), tiny), tiny));
      v128.store(at, f64x2.sub(f64x2.add(v128.load(at, 16), tiny), tiny), 16);
    }
  }
}

/** Both lines of a pair turned into one another: cosine and sine of the angle stand at `turn`, by pairs with their steps. */
@inline
function turned(x: v128, turn: usize, n: v128): v128 {
  const cosine = f64x2.add(v128.load(turn), f64x2.mul(v128.load(turn, 16), n));
  const sine = f64x2.add(v128.load(turn, 32), f64x2.mul(v128.load(turn, 48), n));
  return f64x2.add(f64x2.mul(cosine, x), f64x2.mul(sine, v128.shuffle<f64>(x, x, 1, 0)));
}

/** Sum and difference of the lines of a pair. */
@inline
function crossed(x: v128): v128 {
  const sums = f64x2.add(x, v128.shuffle<f64>(x, x, 1, 0));
  const differences = f64x2.sub(v128.shuffle<f64>(x, x, 1, 0), x);
  return v128.shuffle<f64>(sums, differences, 0, 3);
}

/**
 * Mixes all lines by an orthogonal matrix: turns of pairs, then a Walsh-Hadamard matrix without its factor.
 * @param turns of each pair by doubles: cosine twice, its step twice, minus sine and sine, their steps; 0 for none
 */
export function mixNetwork(blocks: usize, pairs: i32, turns: usize, offset: i32, frames: i32): void {
  for (let i = 0; i < frames; i++) {
    const block = blocks + ((i as usize) << 4);
    const n = f64x2.splat((offset + i) as f64);
    for (let pair = 0; pair < pairs; pair += 4) {
      const at = block + (pair as usize) * PAIR;
      let a = v128.load(at);
      let b = v128.load(at, PAIR);
      let c = v128.load(at, 2 * PAIR);
      let d = v128.load(at, 3 * PAIR);
      if (turns) {
        const turn = turns + ((pair as usize) << 6);
        a = turned(a, turn, n);
        b = turned(b, turn + 64, n);
        c = turned(c, turn + 128, n);
        d = turned(d, turn + 192, n);
      }
      a = crossed(a);
      b = crossed(b);
      c = crossed(c);
      d = crossed(d);
      const ab = f64x2.add(a, b);
      const abOff = f64x2.sub(a, b);
      const cd = f64x2.add(c, d);
      const cdOff = f64x2.sub(c, d);
      v128.store(at, f64x2.add(ab, cd));
      v128.store(at, f64x2.add(abOff, cdOff), PAIR);
      v128.store(at, f64x2.sub(ab, cd), 2 * PAIR);
      v128.store(at, f64x2.sub(abOff, cdOff), 3 * PAIR);
    }
    for (let half = 4; half < pairs; half <<= 1) {
      const apart = (half as usize) * PAIR;
      for (let start = 0; start < pairs; start += 2 * half) {
        for (let pair = start; pair < start + half; pair++) {
          const at = block + (pair as usize) * PAIR;
          const first = v128.load(at);
          const second = v128.load(at + apart);
          v128.store(at, f64x2.add(first, second));
          v128.store(at + apart, f64x2.sub(first, second));
        }
      }
    }
  }
}

/** As `guardLoop`, of two. */
@inline
function guardTwo(x: v128): v128 {
  const magnitude = f64x2.abs(x);
  const loud = f64x2.gt(magnitude, f64x2.splat(1));
  if (!v128.any_true(loud)) return x;
  const over = f64x2.div(f64x2.sub(magnitude, f64x2.splat(1)), f64x2.splat(0.5));
  const share = f64x2.div(f64x2.mul(f64x2.splat(0.5), over), f64x2.add(f64x2.splat(1), over));
  const bent = f64x2.add(f64x2.splat(1), share);
  return v128.bitselect(v128.bitselect(f64x2.neg(bent), bent, f64x2.lt(x, f64x2.splat(0))), x, loud);
}

/**
 * Writes all lines: what comes round at a gain, and what comes in, the left side into the even lines, the right into the
 * odd ones, each at a level of its own; each as `guardLoop` leaves it.
 * @param entries of each pair, its two levels
 */
export function writeNetwork(
  rings: usize,
  stride: i32,
  size: i32,
  index: i32,
  pairs: i32,
  blocks: usize,
  gain: f64,
  left: usize,
  right: usize,
  entries: usize,
  frames: i32,
): void {
  const factor = f64x2.splat(gain);
  const tiny = f64x2.splat(1e-20);
  for (let pair = 0; pair < pairs; pair++) {
    const block = blocks + (pair as usize) * PAIR;
    const even = rings + ((2 * pair) as usize) * (stride as usize);
    const odd = even + (stride as usize);
    const levels = v128.load(entries + ((pair as usize) << 4));
    let at = index;
    for (let i = 0; i < frames; i++) {
      const eight = (i as usize) << 3;
      const incoming = v128.load64_lane(right + eight, v128.load64_zero(left + eight), 1);
      const x = f64x2.add(f64x2.mul(v128.load(block + (eight << 1)), factor), f64x2.mul(incoming, levels));
      const kept = f64x2.sub(f64x2.add(guardTwo(x), tiny), tiny);
      const samples = f32x4.demote_f64x2_zero(kept);
      const place = (at as usize) << 2;
      v128.store32_lane(even + place, samples, 0);
      v128.store32_lane(odd + place, samples, 1);
      if (at < TAPS) {
        const again = ((at + size) as usize) << 2;
        v128.store32_lane(even + again, samples, 0);
        v128.store32_lane(odd + again, samples, 1);
      }
      if (++at == size) at = 0;
    }
  }
}

/**
 * What is heard of all lines on both sides, each at a level of its own on either side.
 * @param exits of each pair: two levels on the left, two on the right
 */
export function gatherNetwork(
  blocks: usize,
  pairs: i32,
  exits: usize,
  left: usize,
  right: usize,
  frames: i32,
): void {
  for (let i = 0; i < frames; i++) {
    let l = f64x2.splat(0);
    let r = f64x2.splat(0);
    const block = blocks + ((i as usize) << 4);
    for (let pair = 0; pair < pairs; pair++) {
      const x = v128.load(block + (pair as usize) * PAIR);
      const levels = exits + ((pair as usize) << 5);
      l = f64x2.add(l, f64x2.mul(x, v128.load(levels)));
      r = f64x2.add(r, f64x2.mul(x, v128.load(levels, 16)));
    }
    const at = (i as usize) << 3;
    store<f64>(left + at, f64x2.extract_lane(l, 0) + f64x2.extract_lane(l, 1));
    store<f64>(right + at, f64x2.extract_lane(r, 0) + f64x2.extract_lane(r, 1));
  }
}

/**
 * Adds echoes of a sound to two sides.
 * @param ring floats, `size` of them and their first 128 once more
 * @param index where the first of these frames went
 * @param taps of each by 32 bits: whole delay, gain on the left and on the right as floats, 0
 * @param left,right floats, up to three beyond `frames` of which are written over
 */
export function addTaps(
  ring: usize,
  size: i32,
  index: i32,
  taps: usize,
  count: i32,
  left: usize,
  right: usize,
  frames: i32,
): void {
  for (let tap = 0; tap < count; tap++, taps += 16) {
    let place = index - load<i32>(taps);
    if (place < 0) place += size;
    const from = ring + ((place as usize) << 2);
    const first = v128.load32_splat(taps, 4);
    const second = v128.load32_splat(taps, 8);
    for (let i = 0; i < frames; i += 4) {
      const at = (i as usize) << 2;
      const x = v128.load(from + at);
      v128.store(left + at, f32x4.add(v128.load(left + at), f32x4.mul(first, x)));
      v128.store(right + at, f32x4.add(v128.load(right + at), f32x4.mul(second, x)));
    }
  }
}
