import { SINC_PHASES, SINC_TABLE, SINC_TAPS } from './interpolationTable';

/** Frames ahead of floor(delay) that a windowed-sinc read touches; the smallest sinc delay is one more. */
export const SINC_AHEAD = SINC_TAPS / 2 - 1;

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
    const whole = Math.floor(delay);
    const d = delay - whole;
    const at = this.writeIndex - whole;
    const before = this.buffer[(at + 1) & this.mask]!;
    const a = this.buffer[at & this.mask]!;
    const b = this.buffer[(at - 1) & this.mask]!;
    const after = this.buffer[(at - 2) & this.mask]!;
    return (
      before * ((-d * (d - 1) * (d - 2)) / 6) +
      a * (((d + 1) * (d - 1) * (d - 2)) / 2) +
      b * ((-(d + 1) * d * (d - 2)) / 2) +
      after * (((d + 1) * d * (d - 1)) / 6)
    );
  }

  /** @param delay frames, SINC_AHEAD + 1 to the maximum; eight-point windowed sinc. */
  readSinc(delay: number): number {
    return readSincAt(this.buffer, this.mask, this.writeIndex, delay);
  }
}

/** Windowed-sinc read of a masked ring at `delay` frames before `index`; for loops that keep the ring in locals. */
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
  return (
    (a + between * (low[next]! - a)) * buffer[at & mask]! +
    (b + between * (low[next + 1]! - b)) * buffer[(at - 1) & mask]! +
    (c + between * (low[next + 2]! - c)) * buffer[(at - 2) & mask]! +
    (d + between * (low[next + 3]! - d)) * buffer[(at - 3) & mask]! +
    (e + between * (low[next + 4]! - e)) * buffer[(at - 4) & mask]! +
    (f + between * (low[next + 5]! - f)) * buffer[(at - 5) & mask]! +
    (g + between * (low[next + 6]! - g)) * buffer[(at - 6) & mask]! +
    (h + between * (low[next + 7]! - h)) * buffer[(at - 7) & mask]!
  );
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
