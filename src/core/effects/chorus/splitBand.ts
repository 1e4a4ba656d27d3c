import { BandSplit } from '../../dsp/bandSplit';
import { Ramp } from '../../dsp/ramp';
import { takeSides, type Sides } from '../../dsp/sides';
import { between } from '../../math/between';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import { WINDOWS } from './spec';

/**
 * Splits a sound into the band that is modulated and the rest. A new length of the transform, or none when the whole
 * sound is modulated, runs unheard until it has filled and is then crossfaded to.
 */
export class SplitBand {
  /** The last stretch, from its first frame on. */
  band: Sides;
  rest: Sides;
  /** The whole sound is the band: there is no rest. */
  whole = true;
  private readonly splits: readonly BandSplit[];
  /** Null while the whole sound moves. */
  private split: BandSplit | null = null;
  private old: BandSplit | null = null;
  /** Frames until a new split has filled, and the way over to it. */
  private filling = 0;
  private readonly changing = new Ramp(1);
  private readonly ownBand: Sides;
  private readonly ownRest: Sides;

  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly rampFrames: number,
  ) {
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.splits = WINDOWS.map((window) => new BandSplit(memory, window, sampleRate, MAXIMUM_BLOCK));
    this.band = this.ownBand = [block(), block()];
    this.rest = this.ownRest = [block(), block()];
  }

  /**
   * Begins from silence.
   * @param window length of the transform; 0 for the whole sound
   */
  reset(window: number, lowHz: number, highHz: number): void {
    this.split = this.fresh(window, lowHz, highHz);
    this.old = null;
    this.filling = 0;
    this.changing.moveTo(1, 0);
  }

  private fresh(window: number, lowHz: number, highHz: number): BandSplit | null {
    const split = this.splits.find((one) => one.window === window) ?? null;
    split?.reset();
    split?.configure(lowHz, highHz);
    return split;
  }

  /** Moves the edges of the band. */
  configure(lowHz: number, highHz: number): void {
    this.split?.configure(lowHz, highHz);
  }

  private get steady(): boolean {
    return this.filling === 0 && this.changing.settled && this.changing.value === 1;
  }

  /** Puts in another split when another is wanted. */
  aim(window: number, lowHz: number, highHz: number): void {
    if (!this.steady) return;
    this.old = null;
    if ((this.split?.window ?? 0) === window) return;
    this.old = this.split;
    this.split = this.fresh(window, lowHz, highHz);
    this.filling = 2 * window;
    this.changing.moveTo(0, 0);
    if (this.filling === 0) this.changing.moveTo(1, this.rampFrames);
  }

  /** Takes a stretch of a stereo block apart. */
  take(left: Floats, right: Floats, start: number, count: number): void {
    const { split, old, ownBand, ownRest } = this;
    if (this.steady) {
      this.whole = split === null;
      this.show(split, left, right, start, count);
      return;
    }
    this.whole = false;
    this.show(old, left, right, start, count);
    const { band, rest } = this;
    if (old) for (const side of [0, 1] as const) copy(band[side], ownBand[side], rest[side], ownRest[side], count);
    else for (const side of ownRest) side.fill(0, 0, count);
    this.band = ownBand;
    this.rest = ownRest;
    this.changeOver(left, right, start, count);
  }

  /** Leaves band and rest where a split makes them; without one all is band. */
  private show(split: BandSplit | null, left: Floats, right: Floats, start: number, count: number): void {
    if (split) {
      split.process(left, right, start, count);
      this.band = split.band;
      this.rest = split.rest;
    } else {
      takeSides(this.ownBand, left, right, count, 1, start);
      this.band = this.ownBand;
      this.rest = this.ownRest;
    }
  }

  private changeOver(left: Floats, right: Floats, start: number, count: number): void {
    const { split, changing, ownBand, ownRest } = this;
    split?.process(left, right, start, count);
    for (let i = 0; i < count; i++) {
      if (this.filling > 0 && --this.filling === 0) changing.moveTo(1, this.rampFrames);
      const weight = smoothstep(changing.next());
      ownBand[0][i] = between(ownBand[0][i]!, split ? split.band[0][i]! : left[start + i]!, weight);
      ownBand[1][i] = between(ownBand[1][i]!, split ? split.band[1][i]! : right[start + i]!, weight);
      ownRest[0][i] = between(ownRest[0][i]!, split ? split.rest[0][i]! : 0, weight);
      ownRest[1][i] = between(ownRest[1][i]!, split ? split.rest[1][i]! : 0, weight);
    }
  }
}

function copy(band: Float64Array, toBand: Float64Array, rest: Float64Array, toRest: Float64Array, count: number): void {
  for (let i = 0; i < count; i++) {
    toBand[i] = band[i]!;
    toRest[i] = rest[i]!;
  }
}
