import { exp, gainToDb } from '../math/elementary';

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

  constructor(private readonly sampleRate: number) {}

  process(left: Float32Array, right: Float32Array, frames: number): void {
    if (frames !== this.usualFrames) {
      this.usualFrames = frames;
      this.share = 1 - exp(-frames / (SECONDS * this.sampleRate));
    }
    let both = 0;
    let middle = 0;
    // No pairs are taken apart here: that takes four times as long.
    for (let i = 0; i < frames; i++) {
      const l = left[i]!;
      const r = right[i]!;
      both += l * l + r * r;
      middle += (l + r) * (l + r);
    }
    this.both += this.share * (both / (2 * frames) - this.both);
    this.middle += this.share * (middle / (4 * frames) - this.middle);
  }

  /** Part of the power that is left in mono, 0 to 1; 1 in silence. */
  get left(): number {
    return this.both < SILENCE ? 1 : Math.min(1, this.middle / this.both);
  }
}

/** Decibels lost where such a part of the power is left. */
export const lossOf = (left: number): number =>
  left >= 1 ? 0 : Math.min(ALL_LOST_DB, -gainToDb(Math.sqrt(Math.max(1e-12, left))));
