import { TINY } from './blocks.as';

const FLOAT: usize = 4;
const TAPS: i32 = 16;
const AHEAD: i32 = 7;
/** The nearest delay of a band-limited read; nearer ones are read by a cubic. */
const NEAREST: i64 = 8;

/** Half a phase: delays are read at the nearest of 4096 phases. */
const HALF_PHASE: i64 = 1 << 19;

let table: usize = 0;

/** @param at where the weights of reads lie, as floats, [phase][tap], the oldest sample first */
export function setSincTable(at: usize): void {
  table = at;
}

/** Sixteen samples from `from` on, weighed, as four sums. */
@inline
function weighed(from: usize, row: usize): v128 {
  const near = f32x4.add(
    f32x4.mul(v128.load(row), v128.load(from)),
    f32x4.mul(v128.load(row, 16), v128.load(from, 16)),
  );
  const far = f32x4.add(
    f32x4.mul(v128.load(row, 32), v128.load(from, 32)),
    f32x4.mul(v128.load(row, 48), v128.load(from, 48)),
  );
  return f32x4.add(near, far);
}

/** The sums of the lanes of four vectors. */
@inline
function sumsOf(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(a, b, 2, 6, 3, 7));
  const cd = f32x4.add(v128.shuffle<f32>(c, d, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 2, 6, 3, 7));
  return f32x4.add(v128.shuffle<f32>(ab, cd, 0, 1, 4, 5), v128.shuffle<f32>(ab, cd, 2, 3, 6, 7));
}

/** Stores four floats as doubles. */
@inline
function storeDoubles(out: usize, four: v128): void {
  v128.store(out, f64x2.promote_low_f32x4(four));
  v128.store(out, f64x2.promote_low_f32x4(v128.shuffle<f32>(four, four, 2, 3, 2, 3)), 16);
}

/** Address of the weights for a delay given with half a phase more. */
@inline
function rowOf(delay: i64): usize {
  return table + ((((delay >> 20) as i32) & 4095) as usize) * ((TAPS as usize) * FLOAT);
}

/** A place in a ring: `place` may lie up to one round outside. */
@inline
function within(place: i32, size: i32): usize {
  return ((place < 0 ? place + size : place >= size ? place - size : place) as usize) << 2;
}

@inline
function sampleAt(ring: usize, size: i32, place: i32): f64 {
  return load<f32>(ring + within(place, size)) as f64;
}

/** Third-order Lagrange interpolation over four points. */
function cubicAt(ring: usize, size: i32, index: i32, delay: i64): f64 {
  const d = ((delay & 0xffffffff) as f64) * 2.3283064365386963e-10;
  const at = index - ((delay >> 32) as i32);
  return (
    sampleAt(ring, size, at + 1) * ((-d * (d - 1) * (d - 2)) / 6) +
    sampleAt(ring, size, at) * (((d + 1) * (d - 1) * (d - 2)) / 2) +
    sampleAt(ring, size, at - 1) * ((-(d + 1) * d * (d - 2)) / 2) +
    sampleAt(ring, size, at - 2) * (((d + 1) * d * (d - 1)) / 6)
  );
}

/** A delay in frames as a whole number of parts: exact under any cut of blocks. */
@inline
function partsOf(frames: f64): i64 {
  return Math.floor(frames * 4294967296) as i64;
}

/** Address of the sixteen samples for a read at frame `index`. */
@inline
function spotOf(size: i32, index: i32, delay: i64): usize {
  return within(index - ((delay >> 32) as i32) + (AHEAD + 1 - TAPS), size);
}

@inline
function readAt(ring: usize, size: i32, index: i32, delay: i64): v128 {
  const near = delay + HALF_PHASE;
  return weighed(ring + spotOf(size, index, near), rowOf(near));
}

/**
 * Reads a ring at a delay that moves in a straight line: as `RingTwin.read`.
 * @param ring floats, `size` of them and their first TAPS once more
 * @param index where the first frame went or will go
 * @param from,step delay at frame 0 and what it changes by each frame
 * @param offset frames from there to the first one read
 * @param least no nearer than this
 * @param out doubles, up to three of which beyond `frames` are written as well
 */
export function readRing(
  ring: usize,
  size: i32,
  index: i32,
  from: f64,
  step: f64,
  offset: i32,
  least: f64,
  frames: i32,
  out: usize,
): void {
  const by = partsOf(step);
  let delay = partsOf(from) + by * (offset as i64);
  if (!allFar(delay, by, frames)) {
    readNear(ring, size, index, delay, by, partsOf(least), frames, out);
    return;
  }
  if (inOnePiece(size, index, delay, by, frames)) {
    let from = ring + ((spotIn(index, delay + HALF_PHASE) as usize) << 2);
    delay += HALF_PHASE;
    let whole = (delay >> 32) as i32;
    for (let i = 0; i < frames; i += 4, out += 32) {
      const a = weighed(from, rowOf(delay));
      delay += by;
      from += stepped(delay, whole);
      whole = (delay >> 32) as i32;
      const b = weighed(from, rowOf(delay));
      delay += by;
      from += stepped(delay, whole);
      whole = (delay >> 32) as i32;
      const c = weighed(from, rowOf(delay));
      delay += by;
      from += stepped(delay, whole);
      whole = (delay >> 32) as i32;
      const d = weighed(from, rowOf(delay));
      delay += by;
      from += stepped(delay, whole);
      whole = (delay >> 32) as i32;
      storeDoubles(out, sumsOf(a, b, c, d));
    }
    return;
  }
  for (let i = 0; i < frames; i += 4, out += 32) {
    const a = readAt(ring, size, index + i, delay);
    const b = readAt(ring, size, index + i + 1, delay + by);
    const c = readAt(ring, size, index + i + 2, delay + 2 * by);
    const d = readAt(ring, size, index + i + 3, delay + 3 * by);
    storeDoubles(out, sumsOf(a, b, c, d));
    delay += 4 * by;
  }
}

/** Bytes from a read to the next one, whose delay is given: a frame on, less what its whole frames have grown by. */
@inline
function stepped(delay: i64, whole: i32): usize {
  return ((1 + whole - ((delay >> 32) as i32)) << 2) as usize;
}

/** The first of the sixteen samples of a read, not yet wrapped round. */
@inline
function spotIn(index: i32, delay: i64): i32 {
  return index - ((delay >> 32) as i32) + (AHEAD + 1 - TAPS);
}

/** True if none of these reads, nor four more, comes near the end of the ring. */
@inline
function inOnePiece(size: i32, index: i32, delay: i64, by: i64, frames: i32): bool {
  const first = spotIn(index, delay + HALF_PHASE);
  const last = spotIn(index + frames + 4, delay + HALF_PHASE + by * ((frames + 4) as i64));
  return min(first, last) >= 0 && max(first, last) < size;
}

/** True if none of these reads, nor three more, is shorter than the shortest band-limited one. */
@inline
function allFar(delay: i64, by: i64, frames: i32): bool {
  const last = delay + by * ((frames + 3) as i64);
  return delay >= NEAREST << 32 && last >= NEAREST << 32;
}

/** One read at a time, by a cubic where it is near. */
function readNear(ring: usize, size: i32, index: i32, exact: i64, by: i64, least: i64, frames: i32, out: usize): void {
  for (let i = 0; i < frames; i++, out += 8, exact += by) {
    store<f64>(out, nearAt(ring, size, index + i, exact < least ? least : exact));
  }
}

@inline
function nearAt(ring: usize, size: i32, index: i32, delay: i64): f64 {
  if (delay < NEAREST << 32) return cubicAt(ring, size, index, delay);
  const four = readAt(ring, size, index, delay);
  const two = f32x4.add(four, v128.shuffle<f32>(four, four, 2, 3, 2, 3));
  return (f32x4.extract_lane(two, 0) + f32x4.extract_lane(two, 1)) as f64;
}

/** Reads two rings that are written together, at one delay: as two of `readRing`. */
export function readRingTwice(
  ring: usize,
  other: usize,
  size: i32,
  index: i32,
  from: f64,
  step: f64,
  offset: i32,
  least: f64,
  frames: i32,
  out: usize,
  otherOut: usize,
): void {
  const by = partsOf(step);
  let delay = partsOf(from) + by * (offset as i64);
  if (!allFar(delay, by, frames)) {
    readNear(ring, size, index, delay, by, partsOf(least), frames, out);
    readNear(other, size, index, delay, by, partsOf(least), frames, otherOut);
    return;
  }
  const piece = inOnePiece(size, index, delay, by, frames);
  const apart = other - ring;
  delay += HALF_PHASE;
  for (let i = 0; i < frames; i += 2, out += 16, otherOut += 16) {
    const row = rowOf(delay);
    const at = ring + (piece ? (spotIn(index + i, delay) as usize) << 2 : spotOf(size, index + i, delay));
    delay += by;
    const nextRow = rowOf(delay);
    const next = ring + (piece ? (spotIn(index + i + 1, delay) as usize) << 2 : spotOf(size, index + i + 1, delay));
    delay += by;
    const sums = sumsOf(
      weighed(at, row),
      weighed(next, nextRow),
      weighed(at + apart, row),
      weighed(next + apart, nextRow),
    );
    v128.store(out, f64x2.promote_low_f32x4(sums));
    v128.store(otherOut, f64x2.promote_low_f32x4(v128.shuffle<f32>(sums, sums, 2, 3, 2, 3)));
  }
}

/** Reads whole frames. */
export function readWhole(ring: usize, size: i32, index: i32, delay: i32, frames: i32, out: usize): void {
  let at = index - delay;
  if (at < 0) at += size;
  else if (at >= size) at -= size;
  for (let i = 0; i < frames; i++, out += 8) {
    store<f64>(out, load<f32>(ring + ((at as usize) << 2)) as f64);
    if (++at == size) at = 0;
  }
}

@inline
function put(ring: usize, size: i32, at: i32, x: f64): void {
  const sample = (x + TINY - TINY) as f32;
  store<f32>(ring + ((at as usize) << 2), sample);
  if (at < TAPS) store<f32>(ring + (((at + size) as usize) << 2), sample);
}

/** As `guardLoop`. */
@inline
function guarded(x: f64): f64 {
  const magnitude = x < 0 ? -x : x;
  if (magnitude <= 1) return x;
  const over = (magnitude - 1) / 0.5;
  const bent = 1 + (0.5 * over) / (1 + over);
  return x < 0 ? -bent : bent;
}

/** Writes a block of doubles, each as `guardLoop` leaves it. */
export function putGuarded(ring: usize, size: i32, index: i32, block: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, block += 8) {
    put(ring, size, index, guarded(load<f64>(block)));
    if (++index == size) index = 0;
  }
}

/**
 * Writes a block of doubles and with it, at a gain for each frame, what the ring holds at a delay that moves in a straight
 * line.
 */
export function putRound(
  ring: usize,
  size: i32,
  index: i32,
  from: f64,
  step: f64,
  offset: i32,
  least: f64,
  frames: i32,
  block: usize,
  gains: usize,
): void {
  const by = partsOf(step);
  const no = partsOf(least);
  let delay = partsOf(from) + by * (offset as i64);
  for (let i = 0; i < frames; i++, block += 8, gains += 8, delay += by) {
    let x = load<f64>(block);
    const gain = load<f64>(gains);
    if (gain != 0) x += gain * nearAt(ring, size, index, delay < no ? no : delay);
    put(ring, size, index, guarded(x));
    if (++index == size) index = 0;
  }
}

/** Writes a block of doubles as they are. */
export function putHeld(ring: usize, size: i32, index: i32, block: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, block += 8) {
    put(ring, size, index, load<f64>(block));
    if (++index == size) index = 0;
  }
}
