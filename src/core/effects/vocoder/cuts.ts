import { FilterPair } from '../../dsp/filterPair';
import type { Arena, Doubles } from '../../wasm/arena';
import { CUT_OFF_HIGH, CUT_OFF_LOW } from './spec';

const K = Math.SQRT2;

/** One of two poles; it lets all through at the end of its range, and rests there. */
class Cut {
  private readonly filter: FilterPair;
  private hz = NaN;
  private rests = true;
  /** It is set for these Hz, and not on its way there. */
  private set = false;

  /** @param side 1 for the lows that it leaves out, 0 for the highs */
  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly side: 0 | 1,
    private readonly openHz: number,
  ) {
    this.filter = new FilterPair(memory, sampleRate, true);
  }

  reset(): void {
    this.filter.reset();
    this.hz = NaN;
    this.set = false;
  }

  aim(hz: number, frames: number): void {
    const open = hz === this.openHz;
    const stays = hz === this.hz || Number.isNaN(this.hz);
    const set = hz === this.hz && this.set;
    this.hz = hz;
    this.set = stays;
    if (set) return;
    this.rests = open && stays;
    if (this.rests) this.filter.reset();
    const { side, filter } = this;
    const [input, band, low] = open ? [1, 0, 0] : side === 1 ? [1, -K, -1] : [0, 0, 1];
    for (const channel of [0, 1] as const) filter.shape(channel, hz, K, input, band, low, stays ? 0 : frames);
  }

  process(left: Doubles, right: Doubles, frames: number): void {
    if (!this.rests) this.filter.process(left, right, frames);
  }
}

/** A low and a high cut of 12 dB an octave for two sides. */
export class Cuts {
  private readonly low: Cut;
  private readonly high: Cut;

  constructor(memory: Arena, sampleRate: number) {
    this.low = new Cut(memory, sampleRate, 1, CUT_OFF_LOW);
    this.high = new Cut(memory, sampleRate, 0, CUT_OFF_HIGH);
  }

  /** Forgets all sound, and goes to the next corners at once. */
  reset(): void {
    this.low.reset();
    this.high.reset();
  }

  /** Goes on to other corners, there after so many frames; to be called as often. */
  aim(lowHz: number, highHz: number, frames: number): void {
    this.low.aim(lowHz, frames);
    this.high.aim(highHz, frames);
  }

  process(left: Doubles, right: Doubles, frames: number): void {
    this.low.process(left, right, frames);
    this.high.process(left, right, frames);
  }
}
