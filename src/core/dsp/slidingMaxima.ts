import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { LONGEST_BLOCK } from './longestBlock';

const SPARE = 2;
/** Places of the state in `levels.as.ts`. */
const WINDOW = 0;
const OCTAVES = 1;
const LINES = 2;

/**
 * The largest of the last values, for every value of a block: maxima of twice as many are those of two windows side by
 * side (van Herk, "A fast algorithm for local minimum and maximum filters on rectangular and octagonal kernels", 1992, by
 * octaves). Nothing of the past depends on the window, so that it can change at any time.
 */
export class SlidingMaxima {
  private readonly wasmKernels = wasm().kernels;
  private readonly state: Doubles;

  /** @param longest longest window in values */
  constructor(
    memory: Arena,
    private readonly longest: number,
  ) {
    let octaves = 0;
    let size = LINES + 1 + LONGEST_BLOCK + SPARE;
    while (2 << octaves <= longest) size += (1 << ++octaves) + LONGEST_BLOCK + SPARE;
    this.state = memory.doubles(size);
    this.state[OCTAVES] = octaves;
    this.setWindow(longest);
    this.reset();
  }

  /** @param window 1 up to the longest */
  setWindow(window: number): void {
    this.state[WINDOW] = Math.max(1, Math.min(this.longest, window));
  }

  /** Forgets all values. */
  reset(): void {
    this.state.fill(-Infinity, LINES);
  }

  /** Puts the maxima in the place of up to LONGEST_BLOCK values. */
  process(block: Doubles, frames: number): void {
    this.wasmKernels.slideMaxima(this.state.byteOffset, block.byteOffset, frames);
  }

  /** The same of minima: an instance is used for either. */
  leastOf(block: Doubles, frames: number): void {
    this.negate(block, frames);
    this.process(block, frames);
    this.negate(block, frames);
  }

  private negate(block: Doubles, frames: number): void {
    for (let i = 0; i < frames; i++) block[i] = -block[i]!;
  }

  /** The maxima of the louder side. */
  ofSides(left: Doubles, right: Doubles, out: Doubles, frames: number): void {
    this.wasmKernels.slidingPeaks(this.state.byteOffset, left.byteOffset, right.byteOffset, out.byteOffset, frames);
  }
}
