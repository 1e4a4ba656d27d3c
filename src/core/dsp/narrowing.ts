import { TWO_PI } from '../math/circle';
import { exp } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';

/**
 * Upper band limit of a bucket-brigade line in Hz: it is clocked once per cell and half-cycle of the delay and passes a
 * third of its clock rate (Raffel and Smith, "Practical modeling of bucket-brigade device circuits", 2010).
 */
export function bucketTopHz(cells: number, delaySeconds: number): number {
  return cells / (2 * delaySeconds) / 3;
}

/** Loss of lows and highs in two channels, 6 dB an octave each, by a one-pole filter at each end. */
export class Narrowing {
  private readonly wasmKernels = wasm().kernels;
  /** By pairs, left and right: memory of the high end, of the low end, and the factors of both. */
  private readonly state: Doubles;
  /** Tuning of both channels. */
  private readonly tuned = new Float64Array(4);

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    this.state = memory.doubles(8);
  }

  reset(): void {
    this.state.fill(0, 0, 4);
  }

  /** Passed over, it stays ready to begin where the sound is. */
  rest(left: number, right: number): void {
    this.state[0] = left;
    this.state[1] = right;
    this.state[2] = this.state[3] = 0;
  }

  tune(channel: 0 | 1, bottomHz: number, topHz: number): void {
    const { tuned } = this;
    if (tuned[channel] === bottomHz && tuned[2 + channel] === topHz) return;
    tuned[channel] = bottomHz;
    tuned[2 + channel] = topHz;
    this.state[4 + channel] = 1 - exp((-TWO_PI * topHz) / this.sampleRate);
    this.state[6 + channel] = 1 - exp((-TWO_PI * bottomHz) / this.sampleRate);
  }

  /** Narrows both blocks in place. */
  process(left: Doubles, right: Doubles, frames: number): void {
    this.wasmKernels.narrow(this.state.byteOffset, left.byteOffset, right.byteOffset, frames);
  }
}
