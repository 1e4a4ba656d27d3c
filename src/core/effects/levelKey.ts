import { SlidingMaximum } from '../dsp/slidingMaximum';
import { gainToDb } from '../math/elementary';

/** Half a period of the lowest tone whose level is read without ripple. */
const HOLD_SECONDS = 0.005;
const RMS_SECONDS = 0.01;
/** Levels below count as silence. */
const FLOOR = 1e-6;

/**
 * Level of the louder side in dB: the largest magnitude of the last 5 ms, so that tones from 100 Hz on read steadily,
 * or the root of the mean power of the last 10 ms, which of a sine is 3 dB less.
 */
export class LevelKey {
  static readonly FLOOR_DB = -120;

  private readonly maximum: SlidingMaximum;
  private readonly squares: Float64Array;
  private at = 0;
  private sum = 0;
  private lastPeak = -1;
  private lastDb = LevelKey.FLOOR_DB;

  constructor(sampleRate: number) {
    const longest = Math.round(HOLD_SECONDS * sampleRate);
    this.maximum = new SlidingMaximum(longest);
    this.maximum.setWindow(longest);
    this.squares = new Float64Array(Math.round(RMS_SECONDS * sampleRate));
  }

  /** @param seconds up to 5 ms */
  setHold(seconds: number, sampleRate: number): void {
    this.maximum.setWindow(Math.max(1, Math.round(Math.min(HOLD_SECONDS, seconds) * sampleRate)));
  }

  reset(): void {
    this.maximum.reset();
    this.squares.fill(0);
    this.sum = 0;
    this.lastPeak = -1;
  }

  peakDb(left: number, right: number): number {
    const l = left < 0 ? -left : left;
    const r = right < 0 ? -right : right;
    return this.inDb(this.maximum.next(l > r ? l : r));
  }

  rmsDb(left: number, right: number): number {
    const { squares } = this;
    const square = Math.max(left * left, right * right);
    this.at = this.at + 1 === squares.length ? 0 : this.at + 1;
    this.sum += square - squares[this.at]!;
    squares[this.at] = square;
    // The running sum is taken anew once a round, so that rounding never builds up.
    if (this.at === 0) {
      this.sum = 0;
      for (let i = 0; i < squares.length; i++) this.sum += squares[i]!;
    }
    return this.inDb(Math.sqrt(Math.max(0, this.sum) / squares.length));
  }

  private inDb(level: number): number {
    if (level !== this.lastPeak) {
      this.lastPeak = level;
      this.lastDb = level <= FLOOR ? LevelKey.FLOOR_DB : gainToDb(level);
    }
    return this.lastDb;
  }
}
