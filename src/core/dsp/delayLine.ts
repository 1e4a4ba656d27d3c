import { powerOfTwoFrom } from '../math/powerOfTwo';

/**
 * A ring of samples with reads at whole delays, which count from the sample written last (delay 1) backwards, so that a
 * loop can read before it writes. The ring's length is a power of two and its index is masked.
 */
export class DelayLine {
  readonly buffer: Float32Array;
  readonly mask: number;
  /** Index of the next sample. */
  writeIndex = 0;

  /** @param maximumFrames longest delay that will be read, 1 or more. */
  constructor(maximumFrames: number) {
    const size = powerOfTwoFrom(Math.max(16, maximumFrames + 1));
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
}
