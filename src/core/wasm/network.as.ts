// A feedback delay network of lines by pairs: doubles of two lines stand beside one another, frame after frame.
import { settled } from './blocks.as';
import { readRing, readWhole } from './ring.as';

const TAPS: i32 = 16;
/** The longest stretch in frames, as `NETWORK_TICK`. */
const TICK: usize = 128;
/** Bytes of a block of doubles to work in, with room for four more. */
const ROOM: usize = (TICK + 4) * 8;
/** Bytes from the block of one pair of lines to that of the next: a stretch, and a cache line beside it. */
const PAIR: usize = TICK * 16 + 64;
/** Bytes of a band of a pair of lines: b0, b1, b2, a1, a2, their steps, and two states, by pairs. */
const BAND: usize = 192;
const STEPS: usize = 80;
const STATES: usize = 160;

/** Bytes of a pair of lines in the table of filters: gain and its step by pairs, then `bands` bands. */
@inline
function tableBytes(bands: i32): usize {
  return 32 + (bands as usize) * BAND;
}

/** True if a line rests on a whole frame. */
@inline
function isWhole(delays: usize): bool {
  const from = load<f64>(delays);
  return load<f64>(delays, 8) == 0 && Math.floor(from) == from;
}

function readLine(ring: usize, size: i32, index: i32, delays: usize, offset: i32, frames: i32, out: usize): void {
  if (isWhole(delays)) readWhole(ring, size, index, load<f64>(delays) as i32, frames, out);
  else readRing(ring, size, index, load<f64>(delays), load<f64>(delays, 8), offset, 0, frames, out);
}

/** Stores floats of two lines, four frames of each, as pairs of doubles. */
@inline
function storePairs(block: usize, even: v128, odd: v128): void {
  const low = v128.shuffle<f32>(even, odd, 0, 4, 1, 5);
  const high = v128.shuffle<f32>(even, odd, 2, 6, 3, 7);
  v128.store(block, f64x2.promote_low_f32x4(low));
  v128.store(block, f64x2.promote_low_f32x4(v128.shuffle<f32>(low, low, 2, 3, 2, 3)), 16);
  v128.store(block, f64x2.promote_low_f32x4(high), 32);
  v128.store(block, f64x2.promote_low_f32x4(v128.shuffle<f32>(high, high, 2, 3, 2, 3)), 48);
}

/** Two lines that stand still on whole frames, straight into their block; false where they lie over the seam. */
@inline
function readPair(ring: usize, stride: usize, size: i32, index: i32, delays: usize, frames: i32, block: usize): bool {
  let first = index - (load<f64>(delays) as i32);
  let second = index - (load<f64>(delays, 32) as i32);
  if (first < 0) first += size;
  if (second < 0) second += size;
  if (first + frames > size || second + frames > size) return false;
  const even = ring + ((first as usize) << 2);
  const odd = ring + stride + ((second as usize) << 2);
  let i = 0;
  for (; i + 4 <= frames; i += 4) {
    const at = (i as usize) << 2;
    storePairs(block + (at << 2), v128.load(even + at), v128.load(odd + at));
  }
  for (; i < frames; i++) {
    const at = (i as usize) << 2;
    store<f64>(block + (at << 2), load<f32>(even + at) as f64);
    store<f64>(block + (at << 2), load<f32>(odd + at) as f64, 8);
  }
  return true;
}

/**
 * Reads all lines into the blocks of their pairs.
 * @param rings floats, `stride` bytes for each line, as in `readRing`
 * @param delays of each line by doubles: delay and its step by frame, twice; the second is what is crossfaded to
 * @param offset frames since delays and fade were told
 * @param fading a bit for each line that crossfades
 * @param fade,fadeStep how far, and how much further by frame
 * @param scratch two blocks of doubles with room for four more each
 */
export function readNetwork(
  rings: usize,
  stride: i32,
  size: i32,
  index: i32,
  pairs: i32,
  delays: usize,
  offset: i32,
  fading: i32,
  fade: f64,
  fadeStep: f64,
  frames: i32,
  blocks: usize,
  scratch: usize,
): void {
  for (let pair = 0; pair < pairs; pair++, delays += 64, blocks += PAIR, rings += 2 * (stride as usize)) {
    const fades = (fading >> (2 * pair)) & 3;
    const still = fades == 0 && isWhole(delays) && isWhole(delays + 32);
    if (still && readPair(rings, stride as usize, size, index, delays, frames, blocks)) continue;
    for (let lane = 0; lane < 2; lane++) {
      const ring = rings + (lane as usize) * (stride as usize);
      const places = delays + ((lane as usize) << 5);
      const out = blocks + ((lane as usize) << 3);
      readLine(ring, size, index, places, offset, frames, scratch);
      if ((fades >> lane) & 1) readFade(ring, size, index, places + 16, offset, fade, fadeStep, frames, scratch);
      for (let i = 0; i < frames; i++) {
        const at = (i as usize) << 3;
        store<f64>(out + (at << 1), load<f64>(scratch + at));
      }
    }
  }
}

/** Crossfades what was read to what another delay gives. */
function readFade(
  ring: usize,
  size: i32,
  index: i32,
  delays: usize,
  offset: i32,
  fade: f64,
  fadeStep: f64,
  frames: i32,
  scratch: usize,
): void {
  const other = scratch + ROOM;
  readLine(ring, size, index, delays, offset, frames, other);
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 3;
    const share = fade + fadeStep * ((offset + i) as f64);
    const old = load<f64>(scratch + at);
    store<f64>(scratch + at, old + share * (load<f64>(other + at) - old));
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
  const other = scratch + ROOM;
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

/** One band of two pairs; with `gains` their gains come first, which stand there and `bytes` further on. */
@inline
function filterTwo(at: usize, block: usize, bytes: usize, gains: usize, frames: i32): void {
  const other = at + bytes;
  const gain = gains ? v128.load(gains) : f64x2.splat(1);
  const otherGain = gains ? v128.load(gains + bytes) : f64x2.splat(1);
  const b0 = v128.load(at);
  const b1 = v128.load(at, 16);
  const b2 = v128.load(at, 32);
  const a1 = v128.load(at, 48);
  const a2 = v128.load(at, 64);
  const c0 = v128.load(other);
  const c1 = v128.load(other, 16);
  const c2 = v128.load(other, 32);
  const d1 = v128.load(other, 48);
  const d2 = v128.load(other, 64);
  let s1 = v128.load(at, STATES);
  let s2 = v128.load(at, STATES + 16);
  let t1 = v128.load(other, STATES);
  let t2 = v128.load(other, STATES + 16);
  for (let i = 0; i < frames; i++, block += 16) {
    let x = v128.load(block);
    let u = v128.load(block, PAIR);
    if (gains) {
      x = f64x2.mul(x, gain);
      u = f64x2.mul(u, otherGain);
    }
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    const v = f64x2.add(f64x2.mul(c0, u), t1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    t1 = f64x2.sub(f64x2.add(f64x2.mul(c1, u), t2), f64x2.mul(d1, v));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    t2 = f64x2.sub(f64x2.mul(c2, u), f64x2.mul(d2, v));
    v128.store(block, y);
    v128.store(block, v, PAIR);
  }
  v128.store(at, s1, STATES);
  v128.store(at, s2, STATES + 16);
  v128.store(other, t1, STATES);
  v128.store(other, t2, STATES + 16);
}

/** One band of one pair, its coefficients moving by a step ahead of every frame. */
function filterMoving(at: usize, block: usize, frames: i32): void {
  let b0 = v128.load(at);
  let b1 = v128.load(at, 16);
  let b2 = v128.load(at, 32);
  let a1 = v128.load(at, 48);
  let a2 = v128.load(at, 64);
  let s1 = v128.load(at, STATES);
  let s2 = v128.load(at, STATES + 16);
  for (let i = 0; i < frames; i++, block += 16) {
    b0 = f64x2.add(b0, v128.load(at, STEPS));
    b1 = f64x2.add(b1, v128.load(at, STEPS + 16));
    b2 = f64x2.add(b2, v128.load(at, STEPS + 32));
    a1 = f64x2.add(a1, v128.load(at, STEPS + 48));
    a2 = f64x2.add(a2, v128.load(at, STEPS + 64));
    const x = v128.load(block);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    v128.store(block, y);
  }
  v128.store(at, b0);
  v128.store(at, b1, 16);
  v128.store(at, b2, 32);
  v128.store(at, a1, 48);
  v128.store(at, a2, 64);
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
  if (moving || used == 0) {
    for (let pair = 0; pair < pairs; pair++) {
      gainPair(table + (pair as usize) * bytes, blocks + (pair as usize) * PAIR, moving, frames);
    }
  }
  for (let n = 0; n < used; n++) {
    const band: usize = (load<i32>(order + ((n as usize) << 2)) as usize) * BAND + 32;
    if (moving) {
      for (let pair = 0; pair < pairs; pair++) {
        filterMoving(table + (pair as usize) * bytes + band, blocks + (pair as usize) * PAIR, frames);
      }
      continue;
    }
    for (let pair = 0; pair < pairs; pair += 2) {
      const head = table + (pair as usize) * bytes;
      const block = blocks + (pair as usize) * PAIR;
      if (n == 0) filterTwo(head + band, block, bytes, head, frames);
      else filterTwo(head + band, block, bytes, 0, frames);
    }
  }
}

/** A pair of lines at its gains, which step on with every frame while they move. */
function gainPair(at: usize, block: usize, moving: bool, frames: i32): void {
  let gain = v128.load(at);
  const step = v128.load(at, 16);
  for (let i = 0; i < frames; i++, block += 16) {
    if (moving) gain = f64x2.add(gain, step);
    v128.store(block, f64x2.mul(v128.load(block), gain));
  }
  v128.store(at, gain);
}

/** Leaves out of the filters' states what is too small for the machine to be quick with it. */
export function settleNetwork(table: usize, pairs: i32, bands: i32): void {
  for (let pair = 0; pair < pairs; pair++) {
    const first = table + (pair as usize) * tableBytes(bands) + 32 + STATES;
    for (let band = 0; band < bands; band++) {
      const at = first + (band as usize) * BAND;
      v128.store(at, settled(v128.load(at)));
      v128.store(at, settled(v128.load(at, 16)), 16);
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
  for (let pair = 0; pair < pairs; pair++, blocks += PAIR, entries += 16) {
    const even = rings + ((2 * pair) as usize) * (stride as usize);
    const odd = even + (stride as usize);
    const levels = v128.load(entries);
    let at = index;
    let i = 0;
    // Four frames at a time where they lie beside one another and are not kept twice.
    while (i < frames) {
      if (i + 4 <= frames && at >= TAPS && at + 4 <= size) {
        const first = incoming(blocks, left, right, i, factor, levels);
        const second = incoming(blocks, left, right, i + 1, factor, levels);
        const third = incoming(blocks, left, right, i + 2, factor, levels);
        const fourth = incoming(blocks, left, right, i + 3, factor, levels);
        const two = v128.shuffle<f32>(first, second, 0, 4, 1, 5);
        const more = v128.shuffle<f32>(third, fourth, 0, 4, 1, 5);
        const place = (at as usize) << 2;
        v128.store(even + place, v128.shuffle<f64>(two, more, 0, 2));
        v128.store(odd + place, v128.shuffle<f64>(two, more, 1, 3));
        i += 4;
        at += 4;
      } else {
        const samples = incoming(blocks, left, right, i, factor, levels);
        const place = (at as usize) << 2;
        v128.store32_lane(even + place, samples, 0);
        v128.store32_lane(odd + place, samples, 1);
        if (at < TAPS) {
          const again = ((at + size) as usize) << 2;
          v128.store32_lane(even + again, samples, 0);
          v128.store32_lane(odd + again, samples, 1);
        }
        i++;
        at++;
      }
      if (at == size) at = 0;
    }
  }
}

/** A frame of both lines of a pair, as floats. */
@inline
function incoming(block: usize, left: usize, right: usize, frame: i32, factor: v128, levels: v128): v128 {
  const eight = (frame as usize) << 3;
  const sides = v128.load64_lane(right + eight, v128.load64_zero(left + eight), 1);
  const x = f64x2.add(f64x2.mul(v128.load(block + (eight << 1)), factor), f64x2.mul(sides, levels));
  return f32x4.demote_f64x2_zero(settled(guardTwo(x)));
}

/**
 * The sum of all lines in both channels, each line at its own level in either.
 * @param exits of each pair: two levels on the left, two on the right
 */
export function gatherNetwork(blocks: usize, pairs: i32, exits: usize, left: usize, right: usize, frames: i32): void {
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
