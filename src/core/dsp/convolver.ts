import { smoothstep } from '../math/smoothstep';
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
import { SpectrumPair, stepsOf } from './spectra';

const TICK = HEAD_TAPS;
const FADE_SECONDS = 0.04;
/** Floats that are taken over from what has been prepared in one tick. */
const TAKEN_A_TICK = 24576;
/** What a bin costs in a step of a transform, in telling spectra apart and together, and in a product. */
const STEP_COST = 1.2;
const PART_COST = 1;
const PRODUCT_COST = 0.4;

/** The input as spectra of one kind, newest last, for all impulses. */
class InputSpectra {
  readonly pair: SpectrumPair;
  readonly block: number;
  readonly ticks: number;
  readonly re: Floats;
  readonly im: Floats;
  /** Of each block in the past both sides. */
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

  /** Bytes of the spectrum of one side, so many blocks ago. */
  slot(ago: number, side: 0 | 1): number {
    return this.slots.byteOffset + 4 * this.pair.size * (2 * this.placeOf(ago) + side);
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
    for (let i = 0; i < TICK; i++) {
      recentLeft[at + i] = left[i]!;
      recentRight[at + i] = right[i]!;
    }
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
    this.pair.part(this.re, this.im, this.slot(0, 0));
  }
}

/** One kind of parts of an impulse: sums of products, and what sounds of them. */
class Parts {
  readonly products: number;
  private readonly sums: readonly [Floats, Floats];
  private readonly re: Floats;
  private readonly im: Floats;
  /** What sounds now of both sides, and what comes after it. */
  private outs: [readonly [Floats, Floats], readonly [Floats, Floats]];

  constructor(
    memory: Arena,
    private readonly input: InputSpectra,
    private readonly spectra: readonly Floats[],
    readonly count: number,
    private readonly paths: Paths,
  ) {
    const { size } = input.pair;
    this.products = count * Math.max(2, paths);
    this.sums = [memory.floats(size), memory.floats(size)];
    this.re = memory.floats(size);
    this.im = memory.floats(size);
    const out = () => [memory.floats(input.block), memory.floats(input.block)] as const;
    this.outs = [out(), out()];
  }

  begin(): void {
    for (const sum of this.sums) sum.fill(0);
  }

  product(n: number): void {
    const { input, paths, spectra } = this;
    const { size } = input.pair;
    const ways = Math.max(2, paths);
    const part = Math.floor(n / ways);
    const way = n % ways;
    const from = paths === 4 ? way >> 1 : way;
    const to = paths === 4 ? way & 1 : way;
    const spectrum = spectra[paths === 1 ? 0 : way]!.byteOffset + 4 * size * part;
    wasm().loops.addProduct(this.sums[to as 0 | 1].byteOffset, input.slot(part, from as 0 | 1), spectrum, size);
  }

  join(): void {
    this.input.pair.join(this.sums[0], this.sums[1], this.re, this.im);
  }

  inverseStep(step: number): void {
    this.input.pair.inverseStep(this.re, this.im, step);
  }

  /** What has been worked out comes next. */
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
    for (let i = 0; i < frames; i++) {
      left[i] = left[i]! + outLeft[at + i]!;
      right[i] = right[i]! + outRight[at + i]!;
    }
  }
}

/** An impulse in the memory of the loops. */
class Impulse {
  readonly parts: readonly Parts[];
  private readonly heads: readonly Floats[];
  private readonly paths: Paths;
  /** Where each piece comes from and goes to; what of them has been taken over. */
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

  /** What the head gives of the past and these frames, put into both sides. */
  direct(inLeft: number, inRight: number, left: Floats, right: Floats, frames: number): void {
    const { loops } = wasm();
    left.fill(0, 0, frames + 15);
    right.fill(0, 0, frames + 15);
    const { heads, paths } = this;
    if (paths === 4) {
      loops.addDirect(inLeft, heads[0]!.byteOffset, HEAD_TAPS, left.byteOffset, frames);
      loops.addDirect(inLeft, heads[1]!.byteOffset, HEAD_TAPS, right.byteOffset, frames);
      loops.addDirect(inRight, heads[2]!.byteOffset, HEAD_TAPS, left.byteOffset, frames);
      loops.addDirect(inRight, heads[3]!.byteOffset, HEAD_TAPS, right.byteOffset, frames);
      return;
    }
    loops.addDirect(inLeft, heads[0]!.byteOffset, HEAD_TAPS, left.byteOffset, frames);
    loops.addDirect(inRight, heads[paths - 1]!.byteOffset, HEAD_TAPS, right.byteOffset, frames);
  }
}

/** Work on one kind of parts: how far it has come in the time of one of them. */
interface Course {
  unit: number;
  done: number;
  total: number;
}

/** Ticks of the longest parts. */
const LONGEST_TICKS = PART_KINDS.at(-1)!.block / TICK;

/**
 * Convolution in real time without latency, whose work is spread evenly: parts of 1024 and 8192 frames are worked out step
 * by step over the time of one of them. Another impulse is taken over a little in each tick, hears as much of the past as
 * the first did, and is crossfaded to.
 */
export class Convolver {
  private readonly inputs: readonly InputSpectra[];
  private readonly courses: readonly Course[] = PART_KINDS.map(() => ({ unit: Infinity, done: 0, total: 0 }));
  /** The tick before and the one that comes in, of both sides. */
  private readonly heard: readonly [Floats, Floats];
  private readonly sums: readonly [Floats, Floats];
  private readonly others: readonly [Floats, Floats];
  private readonly fadeFrames: number;
  private impulse: Impulse | null = null;
  /** What is to follow it: taken over, then at work beside it, then crossfaded to; and what comes after that. */
  private next: Impulse | null = null;
  private after: Impulse | null = null;
  private phase: 'taking' | 'taken' | 'working' | 'fading' = 'taking';
  private faded = 0;
  private offset = 0;
  private tick = 0;
  private used = false;

  constructor(
    private readonly memory: Arena,
    sampleRate: number,
  ) {
    this.inputs = PART_KINDS.map((_, kind) => new InputSpectra(memory, kind));
    const block = (length: number) => [memory.floats(length), memory.floats(length)] as const;
    this.heard = block(2 * TICK + 16);
    this.sums = block(TICK + 16);
    this.others = block(TICK + 16);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
  }

  /** Whether there is an impulse to be heard. */
  get ready(): boolean {
    return this.impulse !== null;
  }

  /** Another impulse: at once before any sound, and without a gap while there is some. */
  take(spectra: ImpulseSpectra): void {
    partsOf(framesIn(spectra)).forEach((count, kind) => this.inputs[kind]!.hold(count));
    const impulse = new Impulse(this.memory.part(), spectra, this.inputs);
    if (!this.used) {
      impulse.take(Infinity);
      this.impulse?.memory.free();
      this.impulse = impulse;
      this.plan();
      return;
    }
    // What is at work already is faded to; what comes then is the newest there is.
    if (this.next && (this.phase === 'working' || this.phase === 'fading')) {
      this.after?.memory.free();
      this.after = impulse;
      return;
    }
    this.next?.memory.free();
    this.next = impulse;
    this.phase = 'taking';
  }

  /** Forgets all sound. What was to come is there at once. */
  reset(): void {
    const newest = this.after ?? this.next;
    if (newest) {
      newest.take(Infinity);
      for (const one of [this.impulse, this.next]) if (one && one !== newest) one.memory.free();
      this.impulse = newest;
      this.next = this.after = null;
    }
    if (this.used) {
      for (const input of this.inputs) input.reset();
      for (const side of this.heard) side.fill(0);
      for (const parts of this.impulse?.parts ?? []) parts.silence();
    }
    this.offset = 0;
    this.tick = 0;
    this.used = false;
    this.plan();
    // Nothing is left to do for what was under way.
    for (const course of this.courses) course.unit = Infinity;
  }

  /**
   * Convolves a block.
   * @param left,right what comes in
   * @param outLeft,outRight what comes out, written over
   */
  process(
    left: Float64Array,
    right: Float64Array,
    outLeft: Float64Array,
    outRight: Float64Array,
    frames: number,
  ): void {
    this.used = true;
    for (let from = 0; from < frames;) {
      const count = Math.min(frames - from, TICK - this.offset);
      this.stretch(left, right, outLeft, outRight, from, count);
      this.offset += count;
      from += count;
      if (this.offset === TICK) this.turn();
    }
  }

  private stretch(
    left: Float64Array,
    right: Float64Array,
    outLeft: Float64Array,
    outRight: Float64Array,
    from: number,
    count: number,
  ): void {
    const { heard, offset, sums, others } = this;
    const [heardLeft, heardRight] = heard;
    for (let i = 0; i < count; i++) {
      heardLeft[TICK + offset + i] = left[from + i]!;
      heardRight[TICK + offset + i] = right[from + i]!;
    }
    const fading = this.next !== null && this.phase === 'fading';
    this.sound(this.impulse, sums, count);
    if (fading) this.sound(this.next, others, count);
    for (let i = 0; i < count; i++) {
      const share = fading ? smoothstep(Math.min(1, (this.faded + i) / this.fadeFrames)) : 0;
      outLeft[from + i] = sums[0][i]! + share * (others[0][i]! - sums[0][i]!);
      outRight[from + i] = sums[1][i]! + share * (others[1][i]! - sums[1][i]!);
    }
    if (fading) this.faded += count;
  }

  /** What is heard of an impulse in these frames. */
  private sound(impulse: Impulse | null, out: readonly [Floats, Floats], count: number): void {
    const [left, right] = out;
    if (!impulse) {
      left.fill(0, 0, count);
      right.fill(0, 0, count);
      return;
    }
    const at = 4 * (TICK + this.offset);
    impulse.direct(this.heard[0].byteOffset + at, this.heard[1].byteOffset + at, left, right, count);
    impulse.parts.forEach((parts, kind) => {
      if (parts.count > 0) parts.add(left, right, (this.tick % this.inputs[kind]!.ticks) * TICK + this.offset, count);
    });
  }

  /** A tick is whole. */
  private turn(): void {
    const { heard, inputs } = this;
    this.offset = 0;
    const left = heard[0].subarray(TICK) as Floats;
    const right = heard[1].subarray(TICK) as Floats;
    for (const input of inputs) input.write(left, right, this.tick % input.ticks);
    for (const side of heard) side.copyWithin(0, TICK, 2 * TICK);
    this.tick++;
    if (this.next && this.phase === 'taking' && this.next.take(TAKEN_A_TICK)) this.phase = 'taken';
    const whole = this.tick % LONGEST_TICKS === 0;
    inputs.forEach((input, kind) => {
      const begins = this.tick % input.ticks === 0;
      if (begins && input.ticks > 1) this.swap(kind);
    });
    if (whole) this.follow();
    inputs.forEach((input, kind) => {
      const tick = this.tick % input.ticks;
      if (tick === 0) this.begin(kind);
      this.work(kind, (tick + 1) / input.ticks);
      if (input.ticks === 1) this.swap(kind);
    });
  }

  /** Impulses that are worked on. */
  private get working(): number {
    return this.next && (this.phase === 'working' || this.phase === 'fading') ? 2 : 1;
  }

  private swap(kind: number): void {
    this.impulse?.parts[kind]!.swap();
    if (this.working > 1) this.next!.parts[kind]!.swap();
  }

  /** The longest parts begin anew: what has been taken over goes to work, what has worked for one of them is faded to. */
  private follow(): void {
    if (this.next && this.phase === 'working') {
      this.phase = 'fading';
      this.faded = 0;
    } else if (this.next && this.phase === 'taken') {
      this.phase = 'working';
      this.plan();
    } else if (this.next && this.phase === 'fading' && this.faded >= this.fadeFrames) {
      this.impulse?.memory.free();
      this.impulse = this.next;
      this.next = this.after;
      this.after = null;
      this.phase = 'taking';
      this.plan();
    }
  }

  /** What there is to do in the time of each kind of parts. */
  private plan(): void {
    this.courses.forEach((course, kind) => {
      const { size } = this.inputs[kind]!.pair;
      const steps = stepsOf(size);
      course.total = size * (0.5 * STEP_COST * steps + PART_COST);
      for (let n = 0; n < this.working; n++) {
        const products = this.partsAt(kind, n)?.products ?? 0;
        if (products > 0) course.total += size * (0.5 * (STEP_COST * steps + PRODUCT_COST * products) + PART_COST);
      }
    });
  }

  private partsAt(kind: number, n: number): Parts | undefined {
    return (n === 0 ? this.impulse : this.next)?.parts[kind];
  }

  private begin(kind: number): void {
    this.inputs[kind]!.begin();
    const course = this.courses[kind]!;
    course.unit = 0;
    course.done = 0;
    for (let n = 0; n < this.working; n++) this.partsAt(kind, n)?.begin();
  }

  /** Works on a kind of parts until a share of it is done. */
  private work(kind: number, share: number): void {
    const course = this.courses[kind]!;
    const enough = share >= 1 ? Infinity : share * course.total;
    while (course.done < enough) {
      const cost = this.unit(kind, course.unit);
      if (cost === 0) return;
      course.unit++;
      course.done += cost;
    }
  }

  /** One piece of work on a kind of parts; what it costs, 0 when all is done. */
  private unit(kind: number, unit: number): number {
    const input = this.inputs[kind]!;
    const { size } = input.pair;
    const steps = stepsOf(size);
    const step = 0.5 * STEP_COST * size;
    let n = unit;
    if (n < steps) {
      input.pair.forwardStep(input.re, input.im, n);
      return step;
    }
    if (n === steps) {
      input.finish();
      return PART_COST * size;
    }
    n -= steps + 1;
    for (let at = 0; at < this.working; at++) {
      const parts = this.partsAt(kind, at);
      if (!parts || parts.products === 0) continue;
      if (n < parts.products) {
        parts.product(n);
        return 0.5 * PRODUCT_COST * size;
      }
      n -= parts.products;
      if (n === 0) {
        parts.join();
        return PART_COST * size;
      }
      n -= 1;
      if (n < steps) {
        parts.inverseStep(n);
        if (n === steps - 1) parts.finish();
        return step;
      }
      n -= steps;
    }
    return 0;
  }
}
