import { SlidingMaxima } from '../dsp/slidingMaxima';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { MAXIMUM_BLOCK } from './kernel';

/** Half a period of the lowest tone whose level is read without ripple. */
const HOLD_SECONDS = 0.005;
const RMS_SECONDS = 0.01;
/** Levels below count as silence. */
const FLOOR = 1e-6;

/**
 * Level of the louder side in dB: the largest magnitude of the last 5 ms, so that tones from 100 Hz on read steadily, or the
 * root of the mean power of the last 10 ms, which of a sine is 3 dB less.
 */
export class LevelKey {
  static readonly FLOOR_DB = -120;

  /** Levels of the last block in dB. */
  readonly db: Doubles;
  private readonly wasmKernels = wasm().kernels;
  private readonly peaks: SlidingMaxima;
  private readonly squares: Float64Array;
  private at = 0;
  private sum = 0;

  /** @param longestSeconds the longest hold, up to 5 ms */
  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    private readonly longestSeconds = HOLD_SECONDS,
  ) {
    this.peaks = new SlidingMaxima(memory, Math.max(1, Math.round(longestSeconds * sampleRate)));
    this.db = memory.doubles(MAXIMUM_BLOCK);
    this.squares = new Float64Array(Math.round(RMS_SECONDS * sampleRate));
    this.setHold(longestSeconds);
  }

  /** @param seconds up to the longest */
  setHold(seconds: number): void {
    this.peaks.setWindow(Math.round(Math.min(this.longestSeconds, seconds) * this.sampleRate));
  }

  reset(): void {
    this.peaks.reset();
    this.squares.fill(0);
    this.sum = 0;
  }

  /** Reads peaks into `db`. */
  readPeaks(left: Doubles, right: Doubles, frames: number): void {
    this.peaks.ofSides(left, right, this.db, frames);
    this.wasmKernels.decibels(this.db.byteOffset, frames, FLOOR, LevelKey.FLOOR_DB);
  }

  /** Reads mean power into `db`. */
  readPower(left: Doubles, right: Doubles, frames: number): void {
    const { squares, db } = this;
    for (let i = 0; i < frames; i++) {
      const square = Math.max(left[i]! * left[i]!, right[i]! * right[i]!);
      this.at = this.at + 1 === squares.length ? 0 : this.at + 1;
      this.sum += square - squares[this.at]!;
      squares[this.at] = square;
      // The running sum is taken anew once a round, so that rounding never builds up.
      if (this.at === 0) {
        this.sum = 0;
        for (let n = 0; n < squares.length; n++) this.sum += squares[n]!;
      }
      db[i] = Math.sqrt(Math.max(0, this.sum) / squares.length);
    }
    this.wasmKernels.decibels(db.byteOffset, frames, FLOOR, LevelKey.FLOOR_DB);
  }
}
