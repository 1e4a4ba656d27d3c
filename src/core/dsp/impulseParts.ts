import type { Arena, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import {
  framesIn,
  HEAD_TAPS,
  headIn,
  PART_KINDS,
  partsIn,
  partsOf,
  pathsIn,
  type ImpulseSpectra,
  type Paths,
} from './impulseSpectra';
import { SpectrumPair } from './spectra';

/** The parts that a convolution is worked out in: spectra of what comes in, and those of an impulse at work. */

/** Frames after which whole work is done. */
export const TICK = HEAD_TAPS;
/** Bins that are multiplied in one piece of work. */
const PIECE = 4096;

/** The input as spectra of one kind, newest last, for all impulses. */
export class InputSpectra {
  readonly pair: SpectrumPair;
  readonly block: number;
  readonly ticks: number;
  readonly re: Floats;
  readonly im: Floats;
  /** Past spectra, both sides, by block. */
  private slots: Floats;
  private held: Arena;
  private count = 1;
  private readonly recent: readonly [Floats, Floats];
  private newest = 0;

  constructor(
    private readonly memory: Arena,
    kind: number,
  ) {
    this.block = PART_KINDS[kind]!.block;
    this.pair = new SpectrumPair(2 * this.block);
    this.ticks = this.block / TICK;
    this.re = memory.floats(this.pair.size);
    this.im = memory.floats(this.pair.size);
    this.held = memory.part();
    this.slots = this.held.floats(2 * this.pair.size);
    this.recent = [memory.floats(this.pair.size), memory.floats(this.pair.size)];
  }

  /** Holds so many blocks at least from now on, those that it holds already among them. */
  hold(count: number): void {
    if (count <= this.count) return;
    const length = 2 * this.pair.size;
    const held = this.memory.part();
    const slots = held.floats(count * length);
    for (let ago = 0; ago < this.count; ago++) {
      const at = this.placeOf(ago) * length;
      slots.set(this.slots.subarray(at, at + length), ((count - ago) % count) * length);
    }
    this.held.free();
    this.held = held;
    this.slots = slots;
    this.count = count;
    this.newest = 0;
  }

  private placeOf(ago: number): number {
    return (this.newest - ago + this.count) % this.count;
  }

  /** Adds products of what came in `ago` blocks ago and before, of one side, with some parts in a row. */
  addProducts(sum: Floats, side: 0 | 1, ago: number, spectra: number, parts: number): void {
    const { slots, count, newest, pair } = this;
    wasm().kernels.addProducts(sum.byteOffset, slots.byteOffset, count, newest, side, ago, spectra, parts, pair.size);
  }

  reset(): void {
    this.slots.fill(0);
    this.newest = 0;
    for (const side of this.recent) side.fill(0);
  }

  /** Takes the newest tick of sound, the `tick`th of its block. */
  write(left: Floats, right: Floats, tick: number): void {
    const [recentLeft, recentRight] = this.recent;
    const at = this.block + tick * TICK;
    recentLeft.set(left, at);
    recentRight.set(right, at);
  }

  /** A block is whole: it and the one before are to be transformed. */
  begin(): void {
    const { re, im, recent, block } = this;
    re.set(recent[0]);
    im.set(recent[1]);
    for (const side of recent) side.copyWithin(0, block);
    this.newest = (this.newest + 1) % this.count;
  }

  finish(): void {
    const { slots, newest, pair } = this;
    pair.part(this.re, this.im, slots.byteOffset + 8 * pair.size * newest);
  }
}

/** One kind of parts of an impulse: sums of products, and what sounds of them. */
export class Parts {
  /** Pieces that the products are worked out in, and parts in each of them. */
  readonly products: number;
  readonly run: number;
  private readonly sums: readonly [Floats, Floats];
  private readonly re: Floats;
  private readonly im: Floats;
  /** Current and next output blocks, both sides. */
  private outs: [readonly [Floats, Floats], readonly [Floats, Floats]];

  constructor(
    memory: Arena,
    private readonly input: InputSpectra,
    private readonly spectra: readonly Floats[],
    readonly count: number,
    private readonly paths: Paths,
  ) {
    const { size } = input.pair;
    this.run = Math.max(1, PIECE / size);
    this.products = Math.ceil(count / this.run) * Math.max(2, paths);
    this.sums = [memory.floats(size), memory.floats(size)];
    this.re = memory.floats(size);
    this.im = memory.floats(size);
    const out = () => [memory.floats(input.block), memory.floats(input.block)] as const;
    this.outs = [out(), out()];
  }

  begin(): void {
    for (const sum of this.sums) sum.fill(0);
  }

  /** Piece `n` of the products: some parts in a row, by one way. */
  product(n: number): void {
    const { input, paths, spectra, run } = this;
    const { size } = input.pair;
    const ways = Math.max(2, paths);
    const part = run * Math.floor(n / ways);
    const way = n % ways;
    const from = paths === 4 ? way >> 1 : way;
    const to = paths === 4 ? way & 1 : way;
    const spectrum = spectra[paths === 1 ? 0 : way]!.byteOffset + 4 * size * part;
    input.addProducts(this.sums[to as 0 | 1], from as 0 | 1, part, spectrum, Math.min(run, this.count - part));
  }

  join(): void {
    this.input.pair.join(this.sums[0], this.sums[1], this.re, this.im);
  }

  inverseStep(step: number): void {
    this.input.pair.inverseStep(this.re, this.im, step);
  }

  /** Makes the computed block the next output. */
  finish(): void {
    const { block } = this.input;
    const [left, right] = this.outs[1];
    left.set(this.re.subarray(block));
    right.set(this.im.subarray(block));
  }

  swap(): void {
    this.outs = [this.outs[1], this.outs[0]];
  }

  silence(): void {
    for (const out of this.outs) for (const side of out) side.fill(0);
  }

  add(left: Floats, right: Floats, at: number, frames: number): void {
    const [outLeft, outRight] = this.outs[0];
    const { kernels } = wasm();
    kernels.addFloats(left.byteOffset, outLeft.byteOffset + 4 * at, frames);
    kernels.addFloats(right.byteOffset, outRight.byteOffset + 4 * at, frames);
  }
}

/** An impulse in WebAssembly memory. */
export class Impulse {
  readonly parts: readonly Parts[];
  private readonly heads: readonly Floats[];
  private readonly paths: Paths;
  /** Pieces to copy into WebAssembly memory, and how many are done. */
  private readonly pieces: readonly { readonly from: Float32Array; readonly to: Floats }[];
  private piece = 0;
  private taken = 0;

  /** @param memory of its own */
  constructor(
    readonly memory: Arena,
    spectra: ImpulseSpectra,
    inputs: readonly InputSpectra[],
  ) {
    this.paths = pathsIn(spectra);
    const counts = partsOf(framesIn(spectra));
    const pieces: { from: Float32Array; to: Floats }[] = [];
    const hold = (from: Float32Array) => {
      const to = this.memory.floats(from.length);
      pieces.push({ from, to });
      return to;
    };
    const paths = Array.from({ length: this.paths }, (_, path) => path);
    this.heads = paths.map((path) => hold(headIn(spectra, path)));
    this.parts = inputs.map((input, kind) => {
      const own = paths.map((path) => hold(partsIn(spectra, path, kind)));
      return new Parts(this.memory, input, own, counts[kind]!, this.paths);
    });
    this.pieces = pieces;
  }

  /** Takes over some of what has been prepared; whether all of it is there. */
  take(floats: number): boolean {
    while (floats > 0 && this.piece < this.pieces.length) {
      const { from, to } = this.pieces[this.piece]!;
      const end = Math.min(from.length, this.taken + floats);
      to.set(from.subarray(this.taken, end), this.taken);
      floats -= end - this.taken;
      this.taken = end;
      if (end < from.length) break;
      this.piece++;
      this.taken = 0;
    }
    return this.piece === this.pieces.length;
  }

  /** Convolves the head with the past and these frames, into both sides. */
  direct(inLeft: number, inRight: number, left: Floats, right: Floats, frames: number): void {
    const { kernels } = wasm();
    left.fill(0, 0, frames + 15);
    right.fill(0, 0, frames + 15);
    const { heads, paths } = this;
    if (paths === 4) {
      kernels.addDirect(inLeft, heads[0]!.byteOffset, HEAD_TAPS, left.byteOffset, frames);
      kernels.addDirect(inLeft, heads[1]!.byteOffset, HEAD_TAPS, right.byteOffset, frames);
      kernels.addDirect(inRight, heads[2]!.byteOffset, HEAD_TAPS, left.byteOffset, frames);
      kernels.addDirect(inRight, heads[3]!.byteOffset, HEAD_TAPS, right.byteOffset, frames);
      return;
    }
    kernels.addDirect(inLeft, heads[0]!.byteOffset, HEAD_TAPS, left.byteOffset, frames);
    kernels.addDirect(inRight, heads[paths - 1]!.byteOffset, HEAD_TAPS, right.byteOffset, frames);
  }
}
