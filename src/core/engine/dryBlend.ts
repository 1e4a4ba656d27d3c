import { SmoothRamp } from '../dsp/smoothRamp';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import type { Arena, Floats } from '../wasm/arena';
import { Compensation } from '../dsp/compensation';
import { LevelMatch } from './levelMatch';

const FADE_SECONDS = 0.015;

/**
 * The dry sound of an effect, held back by the effect's own latency: bypass, arrival and removal fade between the two,
 * and "difference" takes it out of what the effect makes of it.
 */
export class DryBlend {
  private readonly amount: SmoothRamp;
  private readonly apart = new SmoothRamp(0);
  private readonly match: LevelMatch;
  private readonly fadeFrames: number;
  private readonly dry: Compensation;
  private readonly left: Floats;
  private readonly right: Floats;

  /** @param amount of the effect to begin with, 0 or 1 */
  constructor(memory: Arena, sampleRate: number, latencyFrames: number, amount: number) {
    this.dry = new Compensation(memory);
    this.left = memory.floats(MAXIMUM_BLOCK);
    this.right = memory.floats(MAXIMUM_BLOCK);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
    this.match = new LevelMatch(sampleRate);
    this.amount = new SmoothRamp(amount);
    this.dry.setDelay(latencyFrames, true);
  }

  /** @param amount of the effect, 0 or 1 */
  fadeTo(amount: number): void {
    this.amount.moveTo(amount, this.fadeFrames);
  }

  /** @param difference whether only what the effect adds and takes away is heard */
  setDifference(difference: boolean, atOnce: boolean): void {
    this.apart.moveTo(difference ? 1 : 0, atOnce ? 0 : this.fadeFrames);
  }

  get latencyFrames(): number {
    return this.dry.delay;
  }

  set latencyFrames(frames: number) {
    this.dry.setDelay(frames, false);
  }

  get settled(): boolean {
    return this.amount.settled;
  }

  private get wetOnly(): boolean {
    return this.amount.settled && this.amount.value === 1;
  }

  private get whole(): boolean {
    return this.apart.idle;
  }

  /** Keeps what goes into the effect, where it will be needed. */
  before(left: Floats, right: Floats, frames: number): void {
    if (this.wetOnly && this.whole && this.dry.delay === 0) return;
    this.dry.process(left, right, true, this.left, this.right, frames);
  }

  /** Blends what the effect made of the same block. */
  after(left: Float32Array, right: Float32Array, frames: number): void {
    if (!this.whole) this.takeApart(left, right, frames);
    if (this.wetOnly) return;
    const { amount } = this;
    for (let i = 0; i < frames; i++) {
      const weight = amount.next();
      left[i] = this.left[i]! + weight * (left[i]! - this.left[i]!);
      right[i] = this.right[i]! + weight * (right[i]! - this.right[i]!);
    }
  }

  /** Silence goes in and comes out. */
  passOver(frames: number): void {
    this.amount.skip(frames);
    this.apart.skip(frames);
  }

  /** Takes the dry sound out at the level at which it cancels best. */
  private takeApart(left: Float32Array, right: Float32Array, frames: number): void {
    const { match, apart } = this;
    for (let i = 0; i < frames; i++) {
      const gain = match.next(this.left[i]!, this.right[i]!, left[i]!, right[i]!);
      const weight = apart.next();
      left[i] = left[i]! - weight * gain * this.left[i]!;
      right[i] = right[i]! - weight * gain * this.right[i]!;
    }
  }
}
