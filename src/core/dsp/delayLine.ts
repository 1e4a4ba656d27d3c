import { SINC_PHASES, SINC_TABLE, SINC_TAPS } from './interpolationTable';

/** Frames ahead of floor(delay) that a band-limited read touches. */
export const SINC_AHEAD = SINC_TAPS / 2 - 1;
/** The smallest delay that can be read band-limited. */
export const SINC_NEAREST = SINC_AHEAD + 1;

/**
 * A ring of samples with reads at any delay. Reads count from the sample written last (delay 1) backwards, so that a
 * loop can read before it writes. The ring's length is a power of two and its index is masked.
 */
export class DelayLine {
  readonly buffer: Float32Array;
  readonly mask: number;
  /** Where the next sample goes. */
  writeIndex = 0;

  /** @param maximumFrames longest delay that will be read, 1 or more. */
  constructor(maximumFrames: number) {
    let size = 16;
    while (size < maximumFrames + SINC_TAPS + 1) size *= 2;
    this.buffer = new Float32Array(size);
    this.mask = size - 1;
  }

  clear(): void {
    this.buffer.fill(0);
  }

  write(sample: number): void {
    this.buffer[this.writeIndex] = sample;
    this.writeIndex = (this.writeIndex + 1) & this.mask;
  }

  /** @param delay whole frames, 1 to the maximum. */
  readInteger(delay: number): number {
    return this.buffer[(this.writeIndex - delay) & this.mask]!;
  }

  /** @param delay frames, 1 to the maximum; two-point interpolation. */
  readLinear(delay: number): number {
    const whole = Math.floor(delay);
    const fraction = delay - whole;
    const a = this.buffer[(this.writeIndex - whole) & this.mask]!;
    const b = this.buffer[(this.writeIndex - whole - 1) & this.mask]!;
    return a + fraction * (b - a);
  }

  /** @param delay frames, 2 to the maximum; third-order Lagrange interpolation over four points. */
  readCubic(delay: number): number {
    return readCubicAt(this.buffer, this.mask, this.writeIndex, delay);
  }

  /** @param delay frames, SINC_NEAREST to the maximum; band-limited interpolation over twelve points. */
  readSinc(delay: number): number {
    return readSincAt(this.buffer, this.mask, this.writeIndex, delay);
  }
}

/** Third-order Lagrange read of a masked ring at `delay` frames before `index`, 2 and up. */
export function readCubicAt(buffer: Float32Array, mask: number, index: number, delay: number): number {
  const whole = Math.floor(delay);
  const d = delay - whole;
  const at = index - whole;
  const before = buffer[(at + 1) & mask]!;
  const a = buffer[at & mask]!;
  const b = buffer[(at - 1) & mask]!;
  const after = buffer[(at - 2) & mask]!;
  return (
    before * ((-d * (d - 1) * (d - 2)) / 6) +
    a * (((d + 1) * (d - 1) * (d - 2)) / 2) +
    b * ((-(d + 1) * d * (d - 2)) / 2) +
    after * (((d + 1) * d * (d - 1)) / 6)
  );
}

/** Band-limited read of a masked ring at `delay` frames before `index`; for loops that keep the ring in locals. */
export function readSincAt(buffer: Float32Array, mask: number, index: number, delay: number): number {
  const whole = Math.floor(delay);
  const position = (delay - whole) * SINC_PHASES;
  const phase = Math.floor(position);
  const between = position - phase;
  const row = phase * SINC_TAPS;
  const at = index - whole + SINC_AHEAD;
  const low = SINC_TABLE;
  const next = row + SINC_TAPS;
  const a = low[row]!;
  const b = low[row + 1]!;
  const c = low[row + 2]!;
  const d = low[row + 3]!;
  const e = low[row + 4]!;
  const f = low[row + 5]!;
  const g = low[row + 6]!;
  const h = low[row + 7]!;
  const j = low[row + 8]!;
  const k = low[row + 9]!;
  const l = low[row + 10]!;
  const m = low[row + 11]!;
  return (
    (a + between * (low[next]! - a)) * buffer[at & mask]! +
    (b + between * (low[next + 1]! - b)) * buffer[(at - 1) & mask]! +
    (c + between * (low[next + 2]! - c)) * buffer[(at - 2) & mask]! +
    (d + between * (low[next + 3]! - d)) * buffer[(at - 3) & mask]! +
    (e + between * (low[next + 4]! - e)) * buffer[(at - 4) & mask]! +
    (f + between * (low[next + 5]! - f)) * buffer[(at - 5) & mask]! +
    (g + between * (low[next + 6]! - g)) * buffer[(at - 6) & mask]! +
    (h + between * (low[next + 7]! - h)) * buffer[(at - 7) & mask]! +
    (j + between * (low[next + 8]! - j)) * buffer[(at - 8) & mask]! +
    (k + between * (low[next + 9]! - k)) * buffer[(at - 9) & mask]! +
    (l + between * (low[next + 10]! - l)) * buffer[(at - 10) & mask]! +
    (m + between * (low[next + 11]! - m)) * buffer[(at - 11) & mask]!
  );
}

/** The best read there is at a delay: band-limited, and by a cubic where that would reach beyond what is written. */
export function readNearAt(buffer: Float32Array, mask: number, index: number, delay: number): number {
  return delay < SINC_NEAREST ? readCubicAt(buffer, mask, index, delay) : readSincAt(buffer, mask, index, delay);
}

/** Two reads at one delay, of rings of one length written together, into place `to` of two blocks. */
export function readSincTwice(
  first: Float32Array,
  second: Float32Array,
  mask: number,
  index: number,
  delay: number,
  outFirst: Float64Array,
  outSecond: Float64Array,
  to: number,
): void {
  const whole = Math.floor(delay);
  const position = (delay - whole) * SINC_PHASES;
  const phase = Math.floor(position);
  const between = position - phase;
  const row = phase * SINC_TAPS;
  const at = index - whole + SINC_AHEAD;
  let left = 0;
  let right = 0;
  for (let tap = 0; tap < SINC_TAPS; tap += 2) {
    const a = SINC_TABLE[row + tap]!;
    const b = SINC_TABLE[row + tap + 1]!;
    const early = a + between * (SINC_TABLE[row + tap + SINC_TAPS]! - a);
    const late = b + between * (SINC_TABLE[row + tap + 1 + SINC_TAPS]! - b);
    const place = (at - tap) & mask;
    const next = (at - tap - 1) & mask;
    left = left + early * first[place]! + late * first[next]!;
    right = right + early * second[place]! + late * second[next]!;
  }
  outFirst[to] = left;
  outSecond[to] = right;
}
