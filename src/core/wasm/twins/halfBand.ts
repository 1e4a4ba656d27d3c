import { halfBandTaps } from '../../dsp/halfBandTaps';

const round = Math.fround;

/**
 * One doubling of the rate in blocks, up and down again, with a linear-phase half-band filter each way (Crochiere and
 * Rabiner, "Multirate Digital Signal Processing", 1983), in single precision: the reference for the stages of a drive in
 * WebAssembly. Stages follow one another for higher rates; up and down together delay by `latency` frames of the lower
 * rate.
 */
export class HalfBandTwin {
  readonly latency: number;
  private readonly taps: Float32Array;
  private readonly pairs: number;
  private readonly history: number;
  private readonly low: Float32Array;
  private readonly even: Float32Array;
  private readonly odd: Float32Array;
  private readonly sums: Float32Array;

  /**
   * @param pairs taps on one side that are not zero; more of them narrow the band between what passes and what stops
   * @param longest longest block at the lower rate
   */
  constructor(pairs: number, stopbandDb: number, longest: number) {
    this.taps = Float32Array.from(halfBandTaps(pairs, stopbandDb));
    this.pairs = pairs;
    this.latency = 2 * pairs - 1;
    this.history = 2 * pairs;
    this.low = new Float32Array(this.history + longest);
    this.even = new Float32Array(this.history + longest);
    this.odd = new Float32Array(this.history + longest);
    this.sums = new Float32Array(longest);
  }

  /** @param out takes twice as many samples as `block` has */
  up(block: Float32Array, frames: number, out: Float32Array): void {
    const { low, pairs, history, sums } = this;
    low.set(block.subarray(0, frames), history);
    this.filter(low, frames);
    for (let i = 0; i < frames; i++) {
      out[2 * i] = low[pairs + i]!;
      out[2 * i + 1] = 2 * sums[i]!;
    }
    low.copyWithin(0, frames, frames + history);
  }

  /** @param block twice as many samples as `out` takes */
  down(block: Float32Array, frames: number, out: Float32Array): void {
    const { even, odd, pairs, history, sums } = this;
    for (let i = 0; i < frames; i++) {
      even[history + i] = block[2 * i]!;
      odd[history + i] = block[2 * i + 1]!;
    }
    this.filter(odd, frames);
    for (let i = 0; i < frames; i++) out[i] = round(0.5 * even[pairs + 1 + i]!) + sums[i]!;
    even.copyWithin(0, frames, frames + history);
    odd.copyWithin(0, frames, frames + history);
  }

  /** Sums the taps on both sides of each centre. */
  private filter(line: Float32Array, frames: number): void {
    const { taps, pairs, sums } = this;
    for (let i = 0; i < frames; i++) {
      let sum = 0;
      for (let tap = 0; tap < pairs; tap++) {
        sum = round(sum + round(taps[tap]! * round(line[pairs + 1 + tap + i]! + line[pairs - tap + i]!)));
      }
      sums[i] = sum;
    }
  }
}
