import { LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import { Ring, SINC_NEAREST } from '../../dsp/ring';
import { putSides, takeSides, type Sides } from '../../dsp/sides';
import { StateVariableFilter } from '../../dsp/stateVariableFilter';
import { between } from '../../math/between';
import { exp, log } from '../../math/elementary';
import type { Arena, Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { parameterIndices } from '../parameterIndices';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { flangerSpec } from './spec';

const P = parameterIndices(flangerSpec, [
  'delay',
  'rate',
  'depth',
  'shape',
  'stereoPhase',
  'holdSweep',
  'constantPitch',
  'bendRate',
  'feedback',
  'wetPolarity',
  'throughZero',
  'filterType',
  'cutoff',
  'mix',
]);

const FILTERS = [null, 'lowPass', 'highPass', 'bandPass'] as const;
/** Frames between two readings of the oscillator. */
const TICK = 16;
const GLIDE_SECONDS = 0.05;
const LONGEST_MS = 50;
/** The shortest delay of a band-limited read; the dry sound is held back by as much. */
const NEAREST = SINC_NEAREST;
/** The shortest delay that goes round. */
const SHORTEST_LOOP = 4;

/** One side: the comb's line, what is ahead of it, and the dry sound beside it. */
class Side {
  readonly line: Ring;
  readonly ahead: Ring;
  readonly filter: StateVariableFilter;
  readonly wet: Doubles;
  readonly input: Doubles;
  readonly dry: Doubles;
  readonly held: Doubles;
  /** Delay of the copy in frames, moving in a straight line through the tick. */
  delay = 0;
  step = 0;

  constructor(memory: Arena, sampleRate: number) {
    const longest = Math.ceil((LONGEST_MS / 1000) * sampleRate);
    this.line = new Ring(memory, 2 * longest + 2 * NEAREST + MAXIMUM_BLOCK);
    this.ahead = new Ring(memory, longest + 3 * NEAREST + MAXIMUM_BLOCK);
    this.filter = new StateVariableFilter(sampleRate);
    this.input = memory.doubles(MAXIMUM_BLOCK);
    this.dry = memory.doubles(MAXIMUM_BLOCK);
    // Reads write a few frames beyond what is asked for.
    this.held = memory.doubles(MAXIMUM_BLOCK + 4);
    this.wet = memory.doubles(MAXIMUM_BLOCK + 4);
  }

  reset(): void {
    this.line.clear();
    this.ahead.clear();
    this.filter.reset();
  }
}

/**
 * Feedback and feedforward comb with a swept delay (Smith, "Physical audio signal processing", 2010, "Flanging"). The
 * copy is late by delay x (1 + depth x oscillator). Through zero the dry sound is late by the delay itself and the
 * copy overtakes it: everything is held back by the longest delay, less what the copy is early.
 */
class FlangerKernel extends ParameterKernel implements Kernel {
  private readonly sides: readonly [Side, Side];
  private readonly inputs: Sides;
  private readonly dries: Sides;
  private readonly wets: Sides;
  private readonly wasmKernels = wasm().kernels;
  private readonly oscillator: LowFrequencyOscillator;
  /** By how much everything is held back through zero, in frames. */
  private readonly lag: number;
  private readonly glideFrames: number;
  private readonly delay = new Ramp(0);
  private readonly depth = new Ramp(0);
  private readonly phase = new Ramp(0);
  private readonly feedback = new Ramp(0);
  private readonly polarity = new Ramp(1);
  private readonly through = new Ramp(0);
  private readonly filtered = new Ramp(0);
  /** Heard through the filter at some frame of this tick. */
  private filtering = false;
  private readonly cutoff = new Ramp(0);
  private filter: 'lowPass' | 'highPass' | 'bandPass' = 'lowPass';
  /** Delay in the middle of the sweep, moving in a straight line through the tick. */
  private centre = 0;
  private centreStep = 0;
  private readonly mix: EqualPowerMix;
  private offset = TICK;
  private readonly feedbacks: Doubles;
  private readonly polarities = new Float64Array(MAXIMUM_BLOCK);
  private readonly throughs = new Float64Array(MAXIMUM_BLOCK);
  private readonly filters = new Float64Array(MAXIMUM_BLOCK);
  private readonly toned = new Float64Array(MAXIMUM_BLOCK);

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, values, memory } = context;
    this.lag = Math.ceil((LONGEST_MS / 1000) * sampleRate) + NEAREST;
    this.glideFrames = Math.round(GLIDE_SECONDS * sampleRate);
    this.feedbacks = memory.doubles(MAXIMUM_BLOCK);
    const [first, second] = [new Side(memory, sampleRate), new Side(memory, sampleRate)];
    this.sides = [first, second];
    this.inputs = [first.input, second.input];
    this.dries = [first.dry, second.dry];
    this.wets = [first.wet, second.wet];
    this.oscillator = new LowFrequencyOscillator(sampleRate, 307);
    this.mix = new EqualPowerMix(memory, values[P.mix]!);
    this.reset();
  }

  get latencyFrames(): number {
    return NEAREST + (this.v[P.throughZero] === 1 ? this.lag : 0);
  }

  tailSeconds(): number {
    const { v } = this;
    const reach = (2 * v[P.delay]! + 10) / 1000;
    const gain = Math.abs(v[P.feedback]!) / 100;
    return gain < 0.001 ? reach : reach * (1 + Math.ceil(log(3.16e-5) / log(gain)));
  }

  override setParameter(index: number, value: number, frames?: number): void {
    this.v[index] = value;
    this.aim(frames ?? this.rampFrames, frames ?? this.glideFrames);
  }

  /** A held sweep would be lost. */
  get canSleep(): boolean {
    return this.v[P.holdSweep] === 0;
  }

  locate(frame: number): void {
    this.oscillator.locate(frame, 0, this.isSounding);
    if (!this.isSounding) this.settle();
  }

  reset(): void {
    this.aim(0);
    this.takeFilter();
    for (const side of this.sides) side.reset();
    this.isSounding = false;
    this.settle();
  }

  /** Goes to where the sweep is at once. */
  private settle(): void {
    this.offset = TICK;
    this.centre = this.delay.value;
    this.centreStep = 0;
    this.sides.forEach((side, n) => {
      side.delay = this.sweptDelay(0, n);
      side.step = 0;
    });
  }

  private sweptDelay(ahead: number, side: number): number {
    const swing = this.depth.value * this.oscillator.read(ahead + side * this.phase.value);
    return Math.max(0, this.delay.value * (1 + swing));
  }

  readMeters(out: Float64Array): void {
    out[0] = this.oscillator.place;
    for (let n = 0; n < 2; n++) {
      const side = this.sides[n]!;
      // Against the dry sound: through zero the copy can be early.
      out[1 + n] = (side.delay + side.step * this.offset - this.through.value * this.centre) / this.sampleRate;
    }
  }

  protected aim(frames: number, glide = frames): void {
    const { v } = this;
    this.oscillator.configure(v[P.shape] === 0 ? 'sine' : 'triangle', v[P.rate]!);
    this.delay.moveTo((v[P.delay]! / 1000) * this.sampleRate, glide);
    const scale = v[P.constantPitch] === 1 ? v[P.bendRate]! / v[P.rate]! : 1;
    this.depth.moveTo(Math.min(1, (v[P.depth]! / 100) * scale), glide);
    this.phase.moveTo(v[P.stereoPhase]! / 360, glide);
    this.feedback.moveTo(v[P.feedback]! / 100, frames);
    this.polarity.moveTo(v[P.wetPolarity] === 1 ? -1 : 1, frames);
    this.through.moveTo(v[P.throughZero]!, frames);
    this.cutoff.moveTo(log(v[P.cutoff]!), frames);
    this.filtered.moveTo(this.wantedFilter === this.filter ? 1 : 0, frames);
    this.mix.moveTo(v[P.mix]!, frames);
  }

  private get wantedFilter() {
    return FILTERS[this.v[P.filterType]!]!;
  }

  /** Puts in the filter that is wanted. */
  private takeFilter(): void {
    if (this.wantedFilter === null) return;
    this.filter = this.wantedFilter;
    for (const side of this.sides) side.filter.reset();
    this.filtered.moveTo(1, this.isSounding ? this.rampFrames : 0);
  }

  /** Sends everything that moves towards where it is at the end of the tick, `elapsed` frames after the last call. */
  private tick(elapsed: number): void {
    const { v, oscillator } = this;
    const held = v[P.holdSweep] === 1;
    if (!held) oscillator.advance(elapsed);
    const ahead = held ? 0 : (TICK * v[P.rate]!) / this.sampleRate;
    for (const ramp of [this.delay, this.depth, this.phase, this.cutoff]) ramp.skip(elapsed);
    this.centre += this.centreStep * elapsed;
    this.centreStep = (this.delay.value - this.centre) / TICK;
    if (this.filter !== this.wantedFilter && this.filtered.idle) this.takeFilter();
    this.filtering = this.throughFilter;
    this.sides.forEach((side, n) => {
      side.delay += side.step * elapsed;
      side.step = (this.sweptDelay(ahead, n) - side.delay) / TICK;
    });
    this.tune();
    this.offset = 0;
    this.isSounding = true;
  }

  private get throughFilter(): boolean {
    return !this.filtered.settled || this.filtered.value > 0;
  }

  private tune(): void {
    if (!this.filtering) return;
    for (const side of this.sides) side.filter.configure(this.filter, exp(this.cutoff.value), Math.SQRT1_2);
  }

  process(left: Floats, right: Floats, frames: number): void {
    if (!this.filtering && this.throughFilter) {
      this.filtering = true;
      this.tune();
    }
    const { inputs, dries, wets, sides } = this;
    takeSides(inputs, left, right, frames);
    for (const side of sides) {
      side.ahead.write(side.input, frames, false);
      side.ahead.readWhole(side.dry, NEAREST, frames, frames);
    }
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick(this.isSounding ? TICK : 0);
      const count = Math.min(frames - start, TICK - this.offset);
      const passes = !this.through.settled || this.through.value > 0;
      if (passes) this.through.fill(this.throughs, count);
      this.feedback.fill(this.feedbacks, count);
      if (this.filtering) this.filtered.fill(this.filters, count);
      if (passes) for (const side of sides) this.holdBack(side, start, count, frames - start);
      for (const side of sides) this.comb(side, start, count);
      const at = 8 * start;
      this.wasmKernels.guardSides(wets[0].byteOffset + at, wets[1].byteOffset + at, count);
      if (this.filtering) for (const side of sides) this.tone(side, start, count);
      this.offset += count;
      start += count;
    }
    this.turnOver(frames);
    putSides(left, right, dries, frames);
    this.mix.blend(left, right, wets, frames);
  }

  /**
   * Through zero everything is late by the lag less the delay in the middle: the copy then comes with the dry sound, give
   * or take its sweep.
   * @param written frames from `start` on that are in the line already
   */
  private holdBack({ input, dry, held, ahead }: Side, start: number, count: number, written: number): void {
    const { throughs, lag, centre, centreStep, offset } = this;
    ahead.read(held, lag - centre, -centreStep, offset, NEAREST, count, written);
    for (let i = 0; i < count; i++)
      input[start + i] = input[start + i]! + throughs[i]! * (held[i]! - input[start + i]!);
    ahead.readWhole(held, NEAREST + lag, count, written);
    for (let i = 0; i < count; i++) dry[start + i] = dry[start + i]! + throughs[i]! * (held[i]! - dry[start + i]!);
  }

  /** Works out the copy of a stretch. */
  private comb({ wet, input, line, delay, step }: Side, start: number, count: number): void {
    const { feedbacks, offset } = this;
    line.writeRound(input, feedbacks, delay, step, offset, SHORTEST_LOOP, count, start);
    line.read(wet, delay + NEAREST, step, offset, NEAREST, count, count, start);
  }

  private tone({ wet, filter }: Side, start: number, count: number): void {
    const { filters, toned } = this;
    for (let i = 0; i < count; i++) toned[i] = wet[start + i]!;
    filter.process(toned, count);
    for (let i = 0; i < count; i++) wet[start + i] = between(wet[start + i]!, toned[i]!, filters[i]!);
  }

  /** Takes the copies to their polarity. */
  private turnOver(frames: number): void {
    const { polarity, polarities, wets } = this;
    if (polarity.settled && polarity.value === 1) return;
    polarity.fill(polarities, frames);
    for (const wet of wets) for (let i = 0; i < frames; i++) wet[i] = wet[i]! * polarities[i]!;
  }
}

export const createFlanger: KernelFactory = (context) => new FlangerKernel(context);
