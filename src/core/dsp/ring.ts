import { Arena, type Doubles, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { SINC_TABLE, SINC_TAPS } from './interpolationTable';

/** Frames ahead of floor(delay) that a band-limited read touches. */
export const SINC_AHEAD = SINC_TAPS / 2 - 1;
/** The smallest delay that can be read band-limited. */
export const SINC_NEAREST = SINC_AHEAD + 1;

let ready = false;

/** Puts the weights of band-limited reads where the WebAssembly kernels look for them. */
export function prepareReads(): void {
  if (ready) return;
  const table = new Arena().floats(SINC_TABLE.length);
  table.set(SINC_TABLE);
  wasm().kernels.setSincTable(table.byteOffset);
  ready = true;
}

/**
 * A ring of samples in WebAssembly memory, written and read in blocks. A delay counts from the frame that is to be
 * written next: what was written last has the delay 1.
 */
export class Ring {
  private readonly wasmKernels = wasm().kernels;
  private readonly samples: Floats;
  private readonly size: number;
  private writeIndex = 0;
  private used = false;

  /** @param maximumFrames longest delay that will be read, with the longest block that is written ahead of it */
  constructor(memory: Arena, maximumFrames: number) {
    prepareReads();
    this.size = Math.ceil(maximumFrames) + 2 * SINC_TAPS;
    this.samples = memory.floats(this.size + SINC_TAPS);
  }

  clear(): void {
    if (this.used) this.samples.fill(0);
    this.used = false;
  }

  /**
   * Reads at a delay that moves in a straight line: band-limited over sixteen points, and by a cubic where these would
   * reach beyond what is written. Positions are whole multiples of 2^-32 frames from `from` on, so that no cut of blocks
   * changes them.
   * @param from,step delay at frame 0 and what it changes by each frame
   * @param offset frames from there to the first one read
   * @param least no nearer than this, 2 and up
   * @param written frames of these that have been written already
   * @param out up to three samples beyond `frames` are written over
   * @param start where in `out` the first frame goes
   */
  read(
    out: Doubles,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    written: number,
    start = 0,
  ): void {
    const { wasmKernels, samples, size } = this;
    const index = this.before(written);
    wasmKernels.readRing(
      samples.byteOffset,
      size,
      index,
      from,
      step,
      offset,
      least,
      frames,
      out.byteOffset + 8 * start,
    );
  }

  /** Reads this ring and another that is written with it at one delay; as two of `read`. */
  readWith(
    other: Ring,
    out: Doubles,
    otherOut: Doubles,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    written: number,
  ): void {
    this.wasmKernels.readRingTwice(
      this.samples.byteOffset,
      other.samples.byteOffset,
      this.size,
      this.before(written),
      from,
      step,
      offset,
      least,
      frames,
      out.byteOffset,
      otherOut.byteOffset,
    );
  }

  /** @param delay whole frames */
  readWhole(out: Doubles, delay: number, frames: number, written: number): void {
    this.wasmKernels.readWhole(this.samples.byteOffset, this.size, this.before(written), delay, frames, out.byteOffset);
  }

  /** @param guarded each sample as `guardLoop` leaves it */
  write(block: Doubles, frames: number, guarded: boolean): void {
    const { wasmKernels, samples, size, writeIndex } = this;
    if (guarded) wasmKernels.putGuarded(samples.byteOffset, size, writeIndex, block.byteOffset, frames);
    else wasmKernels.putHeld(samples.byteOffset, size, writeIndex, block.byteOffset, frames);
    this.advance(frames);
  }

  /**
   * Writes a block and with it what the ring holds at a delay, as in `read`, each sample as `guardLoop` leaves it.
   * @param gains of what goes round, for every frame
   * @param start where in `block` the first frame is
   */
  writeRound(
    block: Doubles,
    gains: Doubles,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    start = 0,
  ): void {
    this.wasmKernels.putRound(
      this.samples.byteOffset,
      this.size,
      this.writeIndex,
      from,
      step,
      offset,
      least,
      frames,
      block.byteOffset + 8 * start,
      gains.byteOffset,
    );
    this.advance(frames);
  }

  private advance(frames: number): void {
    this.writeIndex = (this.writeIndex + frames) % this.size;
    this.used = true;
  }

  private before(frames: number): number {
    const index = this.writeIndex - frames;
    return index < 0 ? index + this.size : index >= this.size ? index - this.size : index;
  }
}
