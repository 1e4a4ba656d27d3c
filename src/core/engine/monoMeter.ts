import { exp, gainToDb } from '../math/elementary';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

/** Over so long what is lost is looked at, in seconds. */
const SECONDS = 1.5;
/** Below this mean square, about -90 dBFS, there is nothing to be lost. */
const SILENCE = 1e-9;
/** What is lost where all of it is, in dB. */
export const ALL_LOST_DB = 60;

/** How much of a stereo sound's level is lost when both sides are averaged, over the last seconds. */
export class MonoMeter {
  private both = 0;
  private middle = 0;
  private usualFrames = 0;
  private share = 0;

  /** Powers of both sides and of their sum. */
  private readonly powers: Doubles;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    this.powers = memory.doubles(2);
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { powers } = this;
    powers.fill(0);
    wasm().loops.addPowers(left.byteOffset, right.byteOffset, powers.byteOffset, frames);
    this.take(powers[0]! / (2 * frames), powers[1]! / (4 * frames), frames);
  }

  /** Forgets as in silence. */
  rest(frames: number): void {
    this.take(0, 0, frames);
  }

  /** @param both,middle mean squares */
  private take(both: number, middle: number, frames: number): void {
    if (frames !== this.usualFrames) {
      this.usualFrames = frames;
      this.share = 1 - exp(-frames / (SECONDS * this.sampleRate));
    }
    this.both += this.share * (both - this.both);
    this.middle += this.share * (middle - this.middle);
  }

  /** Part of the power that is left in mono, 0 to 1; 1 in silence. */
  get left(): number {
    return this.both < SILENCE ? 1 : Math.min(1, this.middle / this.both);
  }
}

/** Decibels lost where such a part of the power is left. */
export const lossOf = (left: number): number =>
  left >= 1 ? 0 : Math.min(ALL_LOST_DB, -gainToDb(Math.sqrt(Math.max(1e-12, left))));
