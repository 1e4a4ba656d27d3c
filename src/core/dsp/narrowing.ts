import { exp } from '../math/elementary';

const TWO_PI = 6.283185307179586;

/**
 * Where a bucket-brigade line ends: it is clocked once per cell and half-cycle of the delay and keeps a third of its
 * clock rate (Raffel and Smith, "Practical modeling of bucket-brigade device circuits", 2010).
 */
export function bucketTopHz(cells: number, delaySeconds: number): number {
  return cells / (2 * delaySeconds) / 3;
}

/** Loss of lows and highs in one channel, 6 dB an octave each. */
export class Narrowing {
  private high = 0;
  private low = 0;
  private highFactor = 1;
  private lowFactor = 0;

  constructor(private readonly sampleRate: number) {}

  reset(): void {
    this.high = this.low = 0;
  }

  /** Passed over, it stays ready to begin where the sound is. */
  rest(sample: number): void {
    this.high = sample;
    this.low = 0;
  }

  tune(bottomHz: number, topHz: number): void {
    this.highFactor = 1 - exp((-TWO_PI * topHz) / this.sampleRate);
    this.lowFactor = 1 - exp((-TWO_PI * bottomHz) / this.sampleRate);
  }

  process(block: Float64Array, frames: number): void {
    const { highFactor, lowFactor } = this;
    let { high, low } = this;
    for (let i = 0; i < frames; i++) {
      high += highFactor * (block[i]! - high) + 1e-20 - 1e-20;
      low += lowFactor * (high - low) + 1e-20 - 1e-20;
      block[i] = high - low;
    }
    this.high = high;
    this.low = low;
  }
}
