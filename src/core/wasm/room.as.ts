// Around the tail: early reflections as taps, and all-pass sections that diffuse its input.
import { loadFrame, loadPair, settled, storeFrame, storePair } from './blocks.as';

/**
 * Writes a sound as heard from the left and from the right: each side with a part of the other.
 * @param near,far rings of floats, `size` of them and their first `again` once more
 * @param at where the first frame goes
 */
export function feedSides(
  near: usize,
  far: usize,
  size: i32,
  at: i32,
  again: i32,
  part: f64,
  left: usize,
  right: usize,
  frames: i32,
): void {
  const share = f64x2.splat(part);
  for (let i = 0; i < frames; i++, left += 8, right += 8) {
    const x = loadFrame(left, right);
    const other = v128.shuffle<f64>(x, x, 1, 0);
    const y = f32x4.demote_f64x2_zero(settled(f64x2.add(x, f64x2.mul(share, f64x2.sub(other, x)))));
    const place = (at as usize) << 2;
    v128.store32_lane(near + place, y, 0);
    v128.store32_lane(far + place, y, 1);
    if (at < again) {
      const twin = ((at + size) as usize) << 2;
      v128.store32_lane(near + twin, y, 0);
      v128.store32_lane(far + twin, y, 1);
    }
    if (++at == size) at = 0;
  }
}

/** Sixteen frames of all taps, sums held in registers. */
@inline
function addSixteen(ring: usize, size: i32, index: i32, taps: usize, count: i32, left: usize, right: usize): void {
  let l0 = v128.load(left);
  let l1 = v128.load(left, 16);
  let l2 = v128.load(left, 32);
  let l3 = v128.load(left, 48);
  let r0 = v128.load(right);
  let r1 = v128.load(right, 16);
  let r2 = v128.load(right, 32);
  let r3 = v128.load(right, 48);
  for (let tap = 0; tap < count; tap++, taps += 16) {
    let place = index - load<i32>(taps);
    if (place < 0) place += size;
    const from = ring + ((place as usize) << 2);
    const first = v128.load32_splat(taps, 4);
    const second = v128.load32_splat(taps, 8);
    const a = v128.load(from);
    const b = v128.load(from, 16);
    const c = v128.load(from, 32);
    const d = v128.load(from, 48);
    l0 = f32x4.add(l0, f32x4.mul(first, a));
    l1 = f32x4.add(l1, f32x4.mul(first, b));
    l2 = f32x4.add(l2, f32x4.mul(first, c));
    l3 = f32x4.add(l3, f32x4.mul(first, d));
    r0 = f32x4.add(r0, f32x4.mul(second, a));
    r1 = f32x4.add(r1, f32x4.mul(second, b));
    r2 = f32x4.add(r2, f32x4.mul(second, c));
    r3 = f32x4.add(r3, f32x4.mul(second, d));
  }
  v128.store(left, l0);
  v128.store(left, l1, 16);
  v128.store(left, l2, 32);
  v128.store(left, l3, 48);
  v128.store(right, r0);
  v128.store(right, r1, 16);
  v128.store(right, r2, 32);
  v128.store(right, r3, 48);
}

/**
 * Adds echoes of a sound to two sides.
 * @param ring floats, `size` of them and their first 144 once more
 * @param index where the first of these frames went
 * @param taps of each by 32 bits: whole delay, gain on the left and on the right as floats, 0
 * @param left,right floats, up to fifteen beyond `frames` of which are written over
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
  for (let i = 0; i < frames; i += 16) {
    const at = (i as usize) << 2;
    addSixteen(ring + at, size, index, taps, count, left + at, right + at);
  }
}

/** One layer of reflections: what came through more walls and its own, less a part of the highs by a one-pole low-pass. */
@inline
function dulled(x: v128, state: v128, dull: v128): v128 {
  return f64x2.add(x, f64x2.mul(dull, f64x2.sub(state, x)));
}

/** Two floats of both sides as doubles. */
@inline
function floatSides(left: usize, right: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load32_lane(right, v128.load32_zero(left), 1));
}

/**
 * Puts three layers of reflections together: each wall that a sound has met takes a part of its highs away, so that what
 * is in the last layer passes all three low-passes.
 * @param states by pairs, of the first, second and third layer
 * @param share of the low-passes, @param dull part of the highs that is lost
 * @param sums floats: of each layer the left and the right side, `bytes` apart
 * @param left,right doubles, written over
 */
export function dullLayers(
  states: usize,
  share: f64,
  dull: f64,
  sums: usize,
  bytes: i32,
  left: usize,
  right: usize,
  frames: i32,
): void {
  const side = bytes as usize;
  const shares = f64x2.splat(share);
  const dulls = f64x2.splat(dull);
  let first = v128.load(states);
  let second = v128.load(states, 16);
  let third = v128.load(states, 32);
  for (let i = 0; i < frames; i++, sums += 4, left += 8, right += 8) {
    const far = floatSides(sums + 4 * side, sums + 5 * side);
    third = f64x2.add(third, f64x2.mul(shares, f64x2.sub(far, third)));
    const middle = f64x2.add(floatSides(sums + 2 * side, sums + 3 * side), dulled(far, third, dulls));
    second = f64x2.add(second, f64x2.mul(shares, f64x2.sub(middle, second)));
    const near = f64x2.add(floatSides(sums, sums + side), dulled(middle, second, dulls));
    first = f64x2.add(first, f64x2.mul(shares, f64x2.sub(near, first)));
    storeFrame(left, right, dulled(near, first, dulls));
  }
  v128.store(states, first);
  v128.store(states, second, 16);
  v128.store(states, third, 32);
}

/**
 * An all-pass section: out = late - gain x, where x = in + gain late is written and late was written `length` frames ago.
 * Two frames are worked out at once: `length` is 2 and up.
 * @param ring doubles, `mask` + 1 of them
 * @param offset frames since fade and gain were told
 * @param next length that is crossfaded to, by `fade` and `fadeStep` more with each frame; 0 for none
 */
export function passAll(
  ring: usize,
  mask: i32,
  at: i32,
  length: i32,
  next: i32,
  offset: i32,
  fade: f64,
  fadeStep: f64,
  gain: f64,
  gainStep: f64,
  block: usize,
  frames: i32,
): void {
  const size = mask + 1;
  const first = f64x2.splat(gain);
  const step = f64x2.splat(gainStep);
  for (let done = 0; done < frames;) {
    // As far as nothing lies over the seam of the ring.
    const late = (at - length) & mask;
    const later = (at - next) & mask;
    let count = min(frames - done, min(size - at, size - late));
    if (fadeStep > 0) count = min(count, size - later);
    const to = ring + ((at as usize) << 3);
    const from = ring + ((late as usize) << 3);
    const other = ring + ((later as usize) << 3);
    let i = 0;
    if (fadeStep == 0 && gainStep == 0) {
      for (; i + 2 <= count; i += 2) {
        const place = (i as usize) << 3;
        const y = v128.load(from + place);
        const x = f64x2.add(v128.load(block + place), f64x2.mul(first, y));
        v128.store(to + place, settled(x));
        v128.store(block + place, f64x2.sub(y, f64x2.mul(first, x)));
      }
    }
    for (; i < count; i += 2) {
      const n = f64x2.add(f64x2.splat((offset + done + i) as f64), f64x2(0, 1));
      const both = i + 1 < count;
      const place = (i as usize) << 3;
      let y = loadPair(from + place, both);
      if (fadeStep > 0) {
        const part = f64x2.add(f64x2.splat(fade), f64x2.mul(f64x2.splat(fadeStep), n));
        const rest = f64x2.sub(f64x2.splat(3), f64x2.mul(f64x2.splat(2), part));
        const share = f64x2.mul(f64x2.mul(part, part), rest);
        y = f64x2.add(y, f64x2.mul(share, f64x2.sub(loadPair(other + place, both), y)));
      }
      const factor = f64x2.add(first, f64x2.mul(step, n));
      const x = f64x2.add(loadPair(block + place, both), f64x2.mul(factor, y));
      storePair(to + place, settled(x), both);
      storePair(block + place, f64x2.sub(y, f64x2.mul(factor, x)), both);
    }
    block += (count as usize) << 3;
    done += count;
    at = (at + count) & mask;
  }
}
