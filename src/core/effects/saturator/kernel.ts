import { LatencyCompensator } from '../../dsp/latencyCompensator';
import { DRIVE_LATENCY, driveAmount, driveLift, DriveStage, driveTail } from '../../dsp/driveStage';
import { Ramp } from '../../dsp/ramp';
import { StateVariableFilter } from '../../dsp/stateVariableFilter';
import { TWO_PI } from '../../math/circle';
import { dbToGain, exp, log } from '../../math/elementary';
import { settled } from '../../math/settled';
import type { Arena, Doubles, Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { saturatorSpec, CURVE_IDS, HIGHEST_CUT_HZ, LOWEST_CUT_HZ } from './spec';

const P = parameterIndices(saturatorSpec, ['drive', 'curve', 'lowCut', 'highCut', 'mix']);

const TICK = 16;
/** Tape: highs above this are lifted ahead of the curve and lowered after it. */
const EMPHASIS_HZ = 3000;
const EMPHASIS_GAIN = 2;

/** A first-order shelf: below the corner 1, above it `gain`; its inverse undoes it exactly. */
class Shelf {
  private readonly b0: number;
  private readonly b1: number;
  private readonly a1: number;
  private x1 = 0;
  private y1 = 0;

  constructor(sampleRate: number, gain: number) {
    // Zero and pole as mirror images about the corner, each a matched one-pole with unit gain at 0 Hz.
    const zero = exp((-TWO_PI * EMPHASIS_HZ) / Math.sqrt(gain) / sampleRate);
    const pole = exp((-TWO_PI * EMPHASIS_HZ * Math.sqrt(gain)) / sampleRate);
    const scale = (1 - pole) / (1 - zero);
    this.b0 = scale;
    this.b1 = -scale * zero;
    this.a1 = -pole;
  }

  reset(): void {
    this.x1 = this.y1 = 0;
  }

  process(block: Float64Array, frames: number): void {
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      this.y1 = settled(this.b0 * x + this.b1 * this.x1 - this.a1 * this.y1);
      this.x1 = x;
      block[i] = this.y1;
    }
  }
}

class Channel {
  readonly stage: DriveStage;
  readonly lowCut: StateVariableFilter;
  readonly highCut: StateVariableFilter;
  readonly lift: Shelf;
  readonly drop: Shelf;
  /** The input, delayed by the drive's latency. */
  readonly dry: Floats;
  readonly wet: Doubles;
  readonly dark = new Float64Array(MAXIMUM_BLOCK);

  constructor(memory: Arena, sampleRate: number) {
    this.dry = memory.floats(MAXIMUM_BLOCK);
    this.wet = memory.doubles(MAXIMUM_BLOCK);
    this.stage = new DriveStage(memory, sampleRate);
    this.lowCut = new StateVariableFilter(sampleRate);
    this.highCut = new StateVariableFilter(sampleRate);
    this.lift = new Shelf(sampleRate, EMPHASIS_GAIN);
    this.drop = new Shelf(sampleRate, 1 / EMPHASIS_GAIN);
  }

  reset(): void {
    for (const part of [this.stage, this.lowCut, this.highCut, this.lift, this.drop]) part.reset();
  }
}

/** A drive between two cuts, with the dry sound held back by its latency beside it. */
class SaturatorKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = DRIVE_LATENCY;
  readonly canSleep = true;
  private readonly channels: readonly [Channel, Channel];
  private readonly held: LatencyCompensator;
  private readonly drive = new Ramp(1);
  private readonly lift = new Ramp(1);
  private readonly amount = new Ramp(0);
  private readonly mix = new Ramp(1);
  private readonly lowCutLog = new Ramp(0);
  private readonly highCutLog = new Ramp(0);
  private readonly lowCutAmount = new Ramp(0);
  private readonly highCutAmount = new Ramp(0);
  /** Dips to silence and back when another curve is put in. */
  private readonly open = new Ramp(1);
  private curve: number;
  /** Frames since the last of the ticks, at which what changes is taken up. */
  private sinceTick = 0;
  /** A cut moved since the filters were tuned last. */
  private moved = false;
  private readonly drives: Doubles;
  private readonly lifts = new Float64Array(MAXIMUM_BLOCK);
  private readonly amounts: Doubles;
  private readonly mixes = new Float64Array(MAXIMUM_BLOCK);
  private readonly opens = new Float64Array(MAXIMUM_BLOCK);
  private readonly lowAmounts = new Float64Array(MAXIMUM_BLOCK);
  private readonly highAmounts = new Float64Array(MAXIMUM_BLOCK);

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, values, memory } = context;
    this.drives = memory.doubles(MAXIMUM_BLOCK);
    this.amounts = memory.doubles(MAXIMUM_BLOCK);
    this.channels = [new Channel(memory, sampleRate), new Channel(memory, sampleRate)];
    this.held = new LatencyCompensator(memory);
    this.held.setDelay(DRIVE_LATENCY, true);
    this.curve = values[P.curve]!;
    this.reset();
  }

  tailSeconds(): number {
    return driveTail(this.curveId);
  }

  locate(): void {}

  reset(): void {
    this.curve = this.v[P.curve]!;
    for (const channel of this.channels) {
      channel.stage.setCurves(this.curveId);
      channel.reset();
    }
    this.held.clear();
    this.open.moveTo(1, 0);
    this.sinceTick = 0;
    this.moved = false;
    this.aim(0);
    this.tune();
  }

  private get curveId() {
    return CURVE_IDS[this.curve]!;
  }

  private get tape(): boolean {
    return this.curveId === 'tape';
  }

  protected aim(frames: number): void {
    const { v } = this;
    const drive = dbToGain(v[P.drive]!);
    this.drive.moveTo(drive, frames);
    this.lift.moveTo(driveLift(this.curveId, drive), frames);
    this.amount.moveTo(driveAmount(drive), frames);
    this.mix.moveTo(v[P.mix]! / 100, frames);
    this.lowCutLog.moveTo(log(v[P.lowCut]!), frames);
    this.highCutLog.moveTo(log(v[P.highCut]!), frames);
    this.lowCutAmount.moveTo(v[P.lowCut]! > LOWEST_CUT_HZ ? 1 : 0, frames);
    this.highCutAmount.moveTo(v[P.highCut]! < HIGHEST_CUT_HZ ? 1 : 0, frames);
    if (v[P.curve] !== this.curve) this.open.moveTo(0, this.rampFrames);
  }

  private tune(): void {
    for (const { lowCut, highCut } of this.channels) {
      lowCut.configure('highPass', exp(this.lowCutLog.value), Math.SQRT1_2);
      highCut.configure('lowPass', exp(this.highCutLog.value), Math.SQRT1_2);
    }
  }

  /** The curve that is wanted, once nothing of the old one is heard. */
  private takeCurve(): void {
    this.curve = this.v[P.curve]!;
    for (const channel of this.channels) {
      channel.stage.setCurves(this.curveId);
      channel.lift.reset();
      channel.drop.reset();
    }
    this.aim(0);
    this.open.moveTo(1, this.rampFrames);
  }

  private get moving(): boolean {
    return !this.lowCutLog.settled || !this.highCutLog.settled;
  }

  process(left: Floats, right: Floats, frames: number): void {
    this.held.process(left, right, true, this.channels[0].dry, this.channels[1].dry, frames);
    if (!this.moving && !this.moved && this.curve === this.v[P.curve]) {
      this.stretch(left, right, frames, 0);
      this.sinceTick = (this.sinceTick + frames) % TICK;
      return;
    }
    for (let start = 0; start < frames;) {
      if (this.sinceTick === 0) this.tick();
      const count = Math.min(frames - start, TICK - this.sinceTick);
      if (this.moving) this.moved = true;
      this.lowCutLog.pass(count);
      this.highCutLog.pass(count);
      this.stretch(left, right, count, start);
      this.sinceTick = (this.sinceTick + count) % TICK;
      start += count;
    }
  }

  private tick(): void {
    if (this.moved) this.tune();
    this.moved = false;
    if (this.curve !== this.v[P.curve] && this.open.idle) this.takeCurve();
  }

  private stretch(left: Floats, right: Floats, frames: number, start: number): void {
    this.drive.fill(this.drives, frames);
    this.lift.fill(this.lifts, frames);
    this.amount.fill(this.amounts, frames);
    this.mix.fill(this.mixes, frames);
    this.open.fill(this.opens, frames);
    this.lowCutAmount.fill(this.lowAmounts, frames);
    this.highCutAmount.fill(this.highAmounts, frames);
    this.channel(this.channels[0], left, frames, start);
    this.channel(this.channels[1], right, frames, start);
  }

  private channel(channel: Channel, sound: Floats, frames: number, start: number): void {
    const { wet, dark } = channel;
    for (let i = 0; i < frames; i++) wet[i] = dark[i] = sound[start + i]!;
    channel.lowCut.process(dark, frames);
    for (let i = 0; i < frames; i++) {
      wet[i] = wet[i]! + this.lowAmounts[i]! * (dark[i]! - wet[i]!);
    }
    if (this.tape) channel.lift.process(wet, frames);
    channel.stage.process(wet, frames, this.drives, this.drives, this.amounts);
    if (this.tape) channel.drop.process(wet, frames);
    for (let i = 0; i < frames; i++) dark[i] = wet[i]!;
    channel.highCut.process(dark, frames);
    for (let i = 0; i < frames; i++) {
      const toned = (wet[i]! + this.highAmounts[i]! * (dark[i]! - wet[i]!)) * this.lifts[i]! * this.opens[i]!;
      const dry = channel.dry[start + i]!;
      const mix = this.mixes[i]!;
      sound[start + i] = mix === 0 ? dry : dry + mix * (toned - dry);
    }
  }
}

export const createSaturator: KernelFactory = (context) => new SaturatorKernel(context);
