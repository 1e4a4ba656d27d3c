import { TWO_PI } from '../math/circle';
import { cos } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { SeededRandom } from '../math/random';
import { Ramp } from './ramp';

const WINDOW_SECONDS = 0.12;
/**
 * Windows begin up to this much later, by chance. Windows that begin at even distances put out nothing but the sound's
 * own pitch and whole multiples of their rate above and below, and would be off the new pitch by up to half of it.
 */
const SCATTER_SECONDS = 0.025;
const HIGHEST_RATIO = 4;
/** Doubles of a line: delay, step, weight and its step of two windows. */
const LENGTH = 8;

/**
 * Changes the pitch of what comes round in every second line of a network: in place of its one read, two that move along
 * the line faster or slower than it is written, each faded in and out, half a window apart.
 */
export class PitchTaps {
  /** Frames beyond a line's length that are read at most. */
  readonly reach: number;
  private readonly wasmKernels = wasm().kernels;
  private readonly taps: Doubles;
  private readonly ticksOfWindow: number;
  private readonly scatter: number;
  private readonly random = new SeededRandom(0);
  /** Ticks each window has gone. */
  private readonly gone: Int32Array;
  private readonly amount = new Ramp(0);
  private ratio = 1;
  private now = 0;
  private step = 0;
  private running = false;

  /**
   * @param tick frames between two calls of `tick`
   * @param nearest frames that a read keeps away at least
   */
  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly lines: number,
    private readonly tickFrames: number,
    private readonly nearest: number,
  ) {
    this.taps = memory.doubles(LENGTH * (lines / 2));
    this.ticksOfWindow = 2 * Math.round((WINDOW_SECONDS * sampleRate) / tickFrames / 2);
    this.scatter = SCATTER_SECONDS * sampleRate;
    this.reach = (HIGHEST_RATIO - 1) * this.ticksOfWindow * tickFrames + Math.ceil(this.scatter);
    this.gone = new Int32Array(lines);
  }

  get works(): boolean {
    return this.now > 0 || this.step > 0;
  }

  aim(amount: number, ratio: number, frames: number): void {
    this.amount.moveTo(amount, frames);
    this.ratio = ratio;
  }

  reset(): void {
    const { gone, ticksOfWindow } = this;
    this.now = this.amount.value;
    this.step = 0;
    this.running = false;
    this.random.reseed(271);
    // Windows of different lines turn over at different times.
    for (let n = 0; n < gone.length; n++) {
      gone[n] = (Math.floor(((n >> 1) * ticksOfWindow) / gone.length) + (n & 1) * (ticksOfWindow >> 1)) % ticksOfWindow;
    }
  }

  /** @param bases lengths of the lines, by twos */
  tick(bases: Float64Array): void {
    const before = this.amount.value;
    this.now = before;
    this.step = (this.amount.skip(this.tickFrames) - before) / this.tickFrames;
    if (!this.works) {
      this.running = false;
      return;
    }
    const { taps, gone, ticksOfWindow, tickFrames } = this;
    const by = 1 - this.ratio;
    for (let n = 0; n < this.lines; n++) {
      const at = LENGTH * (n >> 1) + 4 * (n & 1);
      const turn = gone[n]! / ticksOfWindow;
      // A window that goes up in pitch begins far away, one that goes down near.
      const start = bases[2 * (n | 1)]! + Math.max(0, -by) * ticksOfWindow * tickFrames;
      if (gone[n] === 0) taps[at] = start + this.scatter * this.random.uniform();
      else taps[at] = this.running ? taps[at]! + taps[at + 1]! * tickFrames : start + by * gone[n]! * tickFrames;
      taps[at + 1] = Math.max(by, (this.nearest - taps[at]!) / tickFrames);
      taps[at + 2] = weight(turn);
      taps[at + 3] = (weight(turn + 1 / ticksOfWindow) - weight(turn)) / tickFrames;
      gone[n] = (gone[n]! + 1) % ticksOfWindow;
    }
    this.running = true;
  }

  read(
    rings: number,
    stride: number,
    size: number,
    index: number,
    offset: number,
    frames: number,
    blocks: number,
    pair: number,
    scratch: number,
  ): void {
    for (let n = 0; n < this.lines / 2; n++) {
      const ring = rings + (2 * n + 1) * stride;
      const taps = this.taps.byteOffset + 8 * LENGTH * n;
      const block = blocks + n * pair + 8;
      this.wasmKernels.shiftLine(ring, size, index, taps, offset, this.now, this.step, frames, block, scratch);
    }
  }
}

/** A raised cosine over a turn. */
function weight(turn: number): number {
  return 0.5 - 0.5 * cos(TWO_PI * turn);
}
