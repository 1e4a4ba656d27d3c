import { exp } from '../math/elementary';
import { TWO_PI } from '../math/circle';

/** Cutoff at -3 dB; -0.3 dB at 20 Hz. */
const CUTOFF_HZ = 5;
/** Time in which its response to an offset falls by 60 dB. */
export const OFFSET_TAIL_SECONDS = 6.9 / (TWO_PI * CUTOFF_HZ);

/** Takes offsets out of one channel: a first-order high-pass at 5 Hz. */
export class OffsetFilter {
  private readonly pole: number;
  private readonly gain: number;
  private input = 0;
  private output = 0;

  constructor(sampleRate: number) {
    this.pole = exp((-TWO_PI * CUTOFF_HZ) / sampleRate);
    this.gain = (1 + this.pole) / 2;
  }

  reset(): void {
    this.input = this.output = 0;
  }

  /** Filters a block in place. */
  process(block: Float32Array | Float64Array, frames: number): void {
    const { pole, gain } = this;
    let { input, output } = this;
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      output = pole * output + gain * (x - input);
      input = x;
      block[i] = output;
    }
    this.input = input;
    // Flushes denormals.
    this.output = Math.abs(output) < 1e-20 ? 0 : output;
  }
}
