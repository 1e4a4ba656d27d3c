import { SmoothRamp } from '../dsp/smoothRamp';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import type { Arena, Floats } from '../wasm/arena';
import { LatencyCompensator } from '../dsp/latencyCompensator';
import { LevelMatch } from './levelMatch';

const FADE_SECONDS = 0.015;

/**
 * Crossfade between an effect and its dry input, delayed by the effect's latency, for bypass, insertion and removal.
 * "Difference" subtracts the dry signal from the output.
 */
export class BypassCrossfade {
  private readonly amount: SmoothRamp;
  private readonly difference = new SmoothRamp(0);
  private readonly match: LevelMatch;
  private readonly fadeFrames: number;
  private readonly dry: LatencyCompensator;
  private readonly left: Floats;
  private readonly right: Floats;

  /** @param amount initial share of the effect, 0 or 1 */
  constructor(memory: Arena, sampleRate: number, latencyFrames: number, amount: number) {
    this.dry = new LatencyCompensator(memory);
    this.left = memory.floats(MAXIMUM_BLOCK);
    this.right = memory.floats(MAXIMUM_BLOCK);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
    this.match = new LevelMatch(sampleRate);
    this.amount = new SmoothRamp(amount);
    this.dry.setDelay(latencyFrames, true);
  }

  /** @param amount share of the effect, 0 or 1 */
  fadeTo(amount: number): void {
    this.amount.moveTo(amount, this.fadeFrames);
  }

  /** @param difference true to play the difference between output and input */
  setDifference(difference: boolean, atOnce: boolean): void {
    this.difference.moveTo(difference ? 1 : 0, atOnce ? 0 : this.fadeFrames);
  }

  get latencyFrames(): number {
    return this.dry.delayFrames;
  }

  set latencyFrames(frames: number) {
    this.dry.setDelay(frames, false);
  }

  get settled(): boolean {
    return this.amount.settled;
  }

  private get isWetOnly(): boolean {
    return this.amount.settled && this.amount.value === 1;
  }

  private get isWholeSignal(): boolean {
    return this.difference.idle;
  }

  /** Stores the input of the effect, if it will be needed. */
  captureDry(left: Floats, right: Floats, frames: number): void {
    if (this.isWetOnly && this.isWholeSignal && this.dry.delayFrames === 0) return;
    this.dry.process(left, right, true, this.left, this.right, frames);
  }

  /** Crossfades the effect's output with its stored input. */
  blend(left: Float32Array, right: Float32Array, frames: number): void {
    if (!this.isWholeSignal) this.subtractDry(left, right, frames);
    if (this.isWetOnly) return;
    const { amount } = this;
    for (let i = 0; i < frames; i++) {
      const weight = amount.next();
      left[i] = this.left[i]! + weight * (left[i]! - this.left[i]!);
      right[i] = this.right[i]! + weight * (right[i]! - this.right[i]!);
    }
  }

  /** Advances the fades through silence. */
  skip(frames: number): void {
    this.amount.skip(frames);
    this.difference.skip(frames);
  }

  /** Subtracts the dry signal at the level at which it cancels best. */
  private subtractDry(left: Float32Array, right: Float32Array, frames: number): void {
    const { match, difference } = this;
    for (let i = 0; i < frames; i++) {
      const gain = match.next(this.left[i]!, this.right[i]!, left[i]!, right[i]!);
      const weight = difference.next();
      left[i] = left[i]! - weight * gain * this.left[i]!;
      right[i] = right[i]! - weight * gain * this.right[i]!;
    }
  }
}
