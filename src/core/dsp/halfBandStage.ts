import { halfBandTaps } from './halfBandTaps';

/**
 * One doubling of the rate in blocks, up and down again, with a linear-phase half-band filter each way (Crochiere and
 * Rabiner, "Multirate Digital Signal Processing", 1983). Stages follow one another for higher rates; up and down
 * together delay by `latency` frames of the lower rate.
 */
export class HalfBandStage {
  readonly latency: number;
  private readonly taps: Float64Array;
  private readonly pairs: number;
  private readonly history: number;
  private readonly low: Float64Array;
  private readonly even: Float64Array;
  private readonly odd: Float64Array;
  private readonly sums: Float64Array;

  /**
   * @param pairs taps on one side that are not zero; more of them narrow the band between what passes and what stops
   * @param longest longest block at the lower rate
   */
  constructor(pairs: number, stopbandDb: number, longest: number) {
    this.taps = halfBandTaps(pairs, stopbandDb);
    this.pairs = pairs;
    this.latency = 2 * pairs - 1;
    this.history = 2 * pairs;
    this.low = new Float64Array(this.history + longest);
    this.even = new Float64Array(this.history + longest);
    this.odd = new Float64Array(this.history + longest);
    this.sums = new Float64Array(longest);
  }

  reset(): void {
    this.low.fill(0);
    this.even.fill(0);
    this.odd.fill(0);
  }

  /** @param out takes twice as many samples as `block` has */
  up(block: Float64Array, frames: number, out: Float64Array): void {
    const { low, pairs, history, sums } = this;
    for (let i = 0; i < frames; i++) low[history + i] = block[i]!;
    this.filter(low, frames);
    for (let i = 0; i < frames; i++) {
      out[2 * i] = low[pairs + i]!;
      out[2 * i + 1] = 2 * sums[i]!;
    }
    for (let i = 0; i < history; i++) low[i] = low[frames + i]!;
  }

  /** @param block twice as many samples as `out` takes */
  down(block: Float64Array, frames: number, out: Float64Array): void {
    const { even, odd, pairs, history, sums } = this;
    for (let i = 0; i < frames; i++) {
      even[history + i] = block[2 * i]!;
      odd[history + i] = block[2 * i + 1]!;
    }
    this.filter(odd, frames);
    for (let i = 0; i < frames; i++) out[i] = 0.5 * even[pairs + 1 + i]! + sums[i]!;
    for (let i = 0; i < history; i++) {
      even[i] = even[frames + i]!;
      odd[i] = odd[frames + i]!;
    }
  }

  /** Sums the taps on both sides of each centre, four centres at a time, which suits the machine. */
  private filter(line: Float64Array, frames: number): void {
    const { taps, pairs, sums } = this;
    const whole = frames - (frames % 4);
    for (let i = 0; i < whole; i += 4) {
      let first = 0;
      let second = 0;
      let third = 0;
      let fourth = 0;
      for (let tap = 0; tap < pairs; tap++) {
        const weight = taps[tap]!;
        const later = pairs + 1 + tap + i;
        const earlier = pairs - tap + i;
        first += weight * (line[later]! + line[earlier]!);
        second += weight * (line[later + 1]! + line[earlier + 1]!);
        third += weight * (line[later + 2]! + line[earlier + 2]!);
        fourth += weight * (line[later + 3]! + line[earlier + 3]!);
      }
      sums[i] = first;
      sums[i + 1] = second;
      sums[i + 2] = third;
      sums[i + 3] = fourth;
    }
    for (let i = whole; i < frames; i++) {
      let sum = 0;
      for (let tap = 0; tap < pairs; tap++) {
        sum += taps[tap]! * (line[pairs + 1 + tap + i]! + line[pairs - tap + i]!);
      }
      sums[i] = sum;
    }
  }
}
