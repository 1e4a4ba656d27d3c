import { FilterPair } from '../../dsp/filterPair';
import type { Arena, Doubles } from '../../wasm/arena';
import { CUT_OFF_HIGH, CUT_OFF_LOW } from './spec';

const K = Math.SQRT2;

/** A low and a high cut of 12 dB an octave for two sides, each letting all through at the end of its range. */
export class Cuts {
  private readonly low: FilterPair;
  private readonly high: FilterPair;
  private lowHz = NaN;
  private highHz = NaN;

  constructor(memory: Arena, sampleRate: number) {
    this.low = new FilterPair(memory, sampleRate, true);
    this.high = new FilterPair(memory, sampleRate, true);
  }

  /** Forgets all sound, and goes to the next corners at once. */
  reset(): void {
    this.low.reset();
    this.high.reset();
    this.lowHz = this.highHz = NaN;
  }

  /** Goes on to other corners, there after so many frames; to be called as often. */
  aim(lowHz: number, highHz: number, frames: number): void {
    const [cutsLow, cutsHigh] = [lowHz > CUT_OFF_LOW, highHz < CUT_OFF_HIGH];
    const over = (hz: number, before: number) => (hz === before || Number.isNaN(before) ? 0 : frames);
    for (const side of [0, 1] as const) {
      this.low.shape(side, lowHz, K, 1, cutsLow ? -K : 0, cutsLow ? -1 : 0, over(lowHz, this.lowHz));
      this.high.shape(side, highHz, K, cutsHigh ? 0 : 1, 0, cutsHigh ? 1 : 0, over(highHz, this.highHz));
    }
    this.lowHz = lowHz;
    this.highHz = highHz;
  }

  process(left: Doubles, right: Doubles, frames: number): void {
    this.low.process(left, right, frames);
    this.high.process(left, right, frames);
  }
}
