import { exp, gainToDb } from '../math/elementary';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

/** Over so long what is lost is looked at, in seconds. */
const SECONDS = 1.5;
/** Below this mean square, about -90 dBFS, there is nothing to be lost. */
const SILENCE = 1e-9;
/** Loss reported where the mono sum is silent, in dB. */
export const ALL_LOST_DB = 60;

/**
 * Cancellation in mono over the last seconds: power of the average of both sides against what it would be were they in
 * phase. A sound that is only panned loses nothing by this measure.
 */
export class MonoMeter {
  private inStep = 0;
  private middle = 0;
  private usualFrames = 0;
  private share = 0;

  /** Powers of left, of right and of their sum. */
  private readonly powers: Doubles;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    this.powers = memory.doubles(3);
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { powers } = this;
    powers.fill(0);
    wasm().kernels.addPowers(left.byteOffset, right.byteOffset, powers.byteOffset, frames);
    const l = powers[0]!;
    const r = powers[1]!;
    this.take((l + r + 2 * Math.sqrt(l * r)) / (4 * frames), powers[2]! / (4 * frames), frames);
  }

  /** Forgets as in silence. */
  rest(frames: number): void {
    this.take(0, 0, frames);
  }

  /** @param inStep,middle mean squares of the average: of both sides in step, and as it is */
  private take(inStep: number, middle: number, frames: number): void {
    if (frames !== this.usualFrames) {
      this.usualFrames = frames;
      this.share = 1 - exp(-frames / (SECONDS * this.sampleRate));
    }
    this.inStep += this.share * (inStep - this.inStep);
    this.middle += this.share * (middle - this.middle);
  }

  /** Part of the power in step that is left in mono, 0 to 1; 1 in silence. */
  get left(): number {
    return this.inStep < SILENCE ? 1 : Math.min(1, this.middle / this.inStep);
  }
}

/** Decibels lost where such a part of the power is left. */
export const lossOf = (left: number): number =>
  left >= 1 ? 0 : Math.min(ALL_LOST_DB, -gainToDb(Math.sqrt(Math.max(1e-12, left))));
