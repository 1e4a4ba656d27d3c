import { smoothstep } from '../math/smoothstep';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { Impulse, InputSpectra, TICK, type Parts } from './impulseParts';
import { framesIn, PART_KINDS, partsOf, type ImpulseSpectra } from './impulseSpectra';
import { stepsOf } from './spectra';

const FADE_SECONDS = 0.04;
/** Floats that are taken over from what has been prepared in one tick. */
const TAKEN_A_TICK = 24576;
/** Relative cost per bin of an FFT stage, of (un)packing two real spectra, and of a multiply-add. */
const STEP_COST = 1.2;
const PART_COST = 1;
const PRODUCT_COST = 0.4;

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
  private readonly wasmKernels = wasm().kernels;
  private readonly inputs: readonly InputSpectra[];
  private readonly courses: readonly Course[] = PART_KINDS.map(() => ({ unit: Infinity, done: 0, total: 0 }));
  /** The tick before and the one that comes in, of both sides. */
  private readonly heard: readonly [Floats, Floats];
  private readonly sums: readonly [Floats, Floats];
  private readonly others: readonly [Floats, Floats];
  private readonly fadeFrames: number;
  private impulse: Impulse | null = null;
  /** The next impulse: loaded, then running alongside, then crossfaded to; and the one after it. */
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

  /** True if it has an impulse. */
  get ready(): boolean {
    return this.impulse !== null;
  }

  /** Keeps as much of what comes in as an impulse of so many frames hears, for those that may follow a shorter one. */
  remember(frames: number): void {
    partsOf(frames).forEach((count, kind) => this.inputs[kind]!.hold(count));
  }

  /** Another impulse: at once before any sound, and without a gap while there is some. */
  take(spectra: ImpulseSpectra): void {
    this.remember(framesIn(spectra));
    const impulse = new Impulse(this.memory.part(), spectra, this.inputs);
    if (!this.used) {
      impulse.take(Infinity);
      this.impulse?.memory.free();
      this.impulse = impulse;
      this.plan();
      return;
    }
    // An impulse that runs already is faded to first; the newest follows it.
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
  process(left: Doubles, right: Doubles, outLeft: Doubles, outRight: Doubles, frames: number): void {
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
    left: Doubles,
    right: Doubles,
    outLeft: Doubles,
    outRight: Doubles,
    from: number,
    count: number,
  ): void {
    const { heard, offset, sums, others, wasmKernels } = this;
    const at = 4 * (TICK + offset);
    wasmKernels.toFloats(heard[0].byteOffset + at, left.byteOffset + 8 * from, count);
    wasmKernels.toFloats(heard[1].byteOffset + at, right.byteOffset + 8 * from, count);
    this.sound(this.impulse, sums, count);
    if (this.next === null || this.phase !== 'fading') {
      wasmKernels.toDoubles(outLeft.byteOffset + 8 * from, sums[0].byteOffset, count);
      wasmKernels.toDoubles(outRight.byteOffset + 8 * from, sums[1].byteOffset, count);
      return;
    }
    this.sound(this.next, others, count);
    for (let i = 0; i < count; i++) {
      const share = smoothstep(Math.min(1, (this.faded + i) / this.fadeFrames));
      outLeft[from + i] = sums[0][i]! + share * (others[0][i]! - sums[0][i]!);
      outRight[from + i] = sums[1][i]! + share * (others[1][i]! - sums[1][i]!);
    }
    this.faded += count;
  }

  /** Renders an impulse's output for these frames. */
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
    const left = heard[0].subarray(TICK, 2 * TICK) as Floats;
    const right = heard[1].subarray(TICK, 2 * TICK) as Floats;
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

  /** Plans the work of each partition size over its period. */
  private plan(): void {
    this.courses.forEach((course, kind) => {
      const { size } = this.inputs[kind]!.pair;
      const steps = stepsOf(size);
      course.total = size * (0.5 * STEP_COST * steps + PART_COST);
      for (let n = 0; n < this.working; n++) {
        const { products, run } = this.partsAt(kind, n) ?? { products: 0, run: 0 };
        if (products > 0)
          course.total += size * (0.5 * (STEP_COST * steps + PRODUCT_COST * products * run) + PART_COST);
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
        return 0.5 * PRODUCT_COST * size * parts.run;
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
