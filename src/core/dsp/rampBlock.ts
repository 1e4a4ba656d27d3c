import type { Arena, Doubles } from '../wasm/arena';
import { Ramp } from './ramp';
import { LONGEST_BLOCK } from './longestBlock';

/** A ramp whose values the WebAssembly kernels read, block by block. */
export class RampBlock extends Ramp {
  private readonly block: Doubles;
  /** Value that fills the whole block; NaN if it holds several. */
  private filled = NaN;

  constructor(memory: Arena, value: number) {
    super(value);
    this.block = memory.doubles(LONGEST_BLOCK);
  }

  /** Goes on by up to LONGEST_BLOCK frames; returns where their values lie. */
  take(frames: number): number {
    const { block } = this;
    if (!this.settled) {
      this.fill(block, frames);
      this.filled = NaN;
    } else if (this.filled !== this.value) {
      block.fill(this.value);
      this.filled = this.value;
    }
    return block.byteOffset;
  }
}
