import { Ramp } from '../dsp/ramp';
import { exp, log } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { MAXIMUM_BLOCK } from './kernel';
import { Band, type BandShape } from './toneBand';

const HALF_POWER = Math.SQRT1_2;

/** One band: a shelf or bell with a gain that moves, or a cut that is let in and out. */
class Step {
  private readonly band: Band;
  private readonly cuts: boolean;
  /** Gain in dB, or the share of a cut. */
  private readonly amount = new Ramp(0);
  private readonly logHz = new Ramp(log(1000));
  private readonly keptLeft: Doubles;
  private readonly keptRight: Doubles;
  private works = false;
  private due = true;

  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly shape: BandShape,
  ) {
    this.band = new Band(memory, sampleRate);
    this.cuts = shape.type === 'lowCut' || shape.type === 'highCut';
    this.keptLeft = memory.doubles(MAXIMUM_BLOCK);
    this.keptRight = memory.doubles(MAXIMUM_BLOCK);
  }

  aim(amount: number, hz: number, frames: number): void {
    this.amount.moveTo(amount, frames);
    this.logHz.moveTo(log(hz), frames);
    this.due = true;
  }

  reset(): void {
    this.works = false;
    this.due = true;
  }

  tick(frames: number): void {
    const began = this.works;
    const wasAt = this.amount.value;
    this.works = wasAt !== 0 || !this.amount.settled;
    if (!this.works) return;
    if (!began) this.band.arrange(this.shape);
    else if (!this.due) return;
    this.due = !this.logHz.settled || (!this.cuts && !this.amount.settled);
    // A band begins from where it is and not from where it was when it was heard last.
    if (!began) this.tune(0);
    this.logHz.skip(frames);
    if (!this.cuts) this.amount.skip(frames);
    this.tune(frames);
  }

  private tune(frames: number): void {
    const gainDb = this.cuts ? 0 : this.amount.value;
    this.band.tune({ frequencyHz: exp(this.logHz.value), gainDb, q: HALF_POWER }, frames);
  }

  process(left: Doubles, right: Doubles, frames: number, start: number): void {
    if (!this.works) return;
    const { keptLeft, keptRight, amount } = this;
    const whole = !this.cuts || (amount.settled && amount.value === 1);
    for (let i = start; !whole && i < start + frames; i++) {
      keptLeft[i] = left[i]!;
      keptRight[i] = right[i]!;
    }
    this.band.process(left, right, frames, start);
    for (let i = start; !whole && i < start + frames; i++) {
      const share = amount.next();
      left[i] = keptLeft[i]! + share * (left[i]! - keptLeft[i]!);
      right[i] = keptRight[i]! + share * (right[i]! - keptRight[i]!);
    }
  }
}

/** A few bands in series whose gains and frequencies move; those without effect cost nothing. */
export class ToneStage {
  private readonly steps: readonly Step[];

  /** @param types of the bands, in order; cuts have 12 dB an octave */
  constructor(memory: Arena, sampleRate: number, types: readonly BandShape['type'][]) {
    this.steps = types.map((type) => new Step(memory, sampleRate, { type, slope: 12, channel: 0 }));
  }

  /**
   * @param band its place in the order
   * @param amount gain in dB, or for a cut 1 to let it in and 0 to leave it out
   */
  aim(band: number, amount: number, hz: number, frames: number): void {
    this.steps[band]!.aim(amount, hz, frames);
  }

  reset(): void {
    for (const step of this.steps) step.reset();
  }

  /** Ahead of the next `frames` frames, always as many. */
  tick(frames: number): void {
    for (const step of this.steps) step.tick(frames);
  }

  /** @param start first frame of the blocks that is worked on */
  process(left: Doubles, right: Doubles, frames: number, start = 0): void {
    for (const step of this.steps) step.process(left, right, frames, start);
  }
}
