import { AntialiasedCurve, reachOf, SMOOTHED_CURVES, type SmoothedCurve } from '../../dsp/antialiasedCurve';
import { HalfBandStage } from '../../dsp/halfBandStage';
import { DelayLine } from '../../dsp/delayLine';
import { Ramp } from '../../dsp/ramp';
import { StateVariableFilter } from '../../dsp/stateVariableFilter';
import { dbToGain, exp, log } from '../../math/elementary';
import { MAXIMUM_BLOCK, type Kernel, type KernelFactory } from '../kernel';
import { CURVE_IDS, HIGHEST_CUT_HZ, LOWEST_CUT_HZ } from './spec';

const enum P {
  drive,
  curve,
  lowCut,
  highCut,
  mix,
}

const RAMP_SECONDS = 0.02;
const TICK = 16;
/** The level whose loudness the drive leaves alone. */
const REFERENCE = 0.25;
/** Tape: highs above this are lifted ahead of the curve and lowered after it. */
const EMPHASIS_HZ = 3000;
const EMPHASIS_GAIN = 2;
/** What an uneven curve leaves at 0 Hz is taken away below this. */
const DC_HZ = 4;
/** Time in which the removal of offsets falls by 90 dB: ln(10^4.5) time constants. */
const OFFSET_TAIL_SECONDS = 10.36 / (2 * Math.PI * DC_HZ);
const TWO_PI = 6.283185307179586;

/** From the outside in: pairs of taps, many where the sound ends close to what must be stopped, few further up. */
const STAGES = [16, 6, 4] as const;
const STOPBAND_DB = 92;
/** At eight times the rate: latencies of the stages, one of the curve, one to make whole frames. */
const PADDING = 5;
const LATENCY = (8 * (2 * STAGES[0] - 1) + 4 * (2 * STAGES[1] - 1) + 2 * (2 * STAGES[2] - 1) + 1 + PADDING) / 8;

/** One channel at eight times the rate. */
class EightfoldCurve {
  private readonly outer = new HalfBandStage(STAGES[0], STOPBAND_DB, MAXIMUM_BLOCK);
  private readonly middle = new HalfBandStage(STAGES[1], STOPBAND_DB, 2 * MAXIMUM_BLOCK);
  private readonly inner = new HalfBandStage(STAGES[2], STOPBAND_DB, 4 * MAXIMUM_BLOCK);
  private readonly curve = new AntialiasedCurve();
  private readonly twice = new Float64Array(2 * MAXIMUM_BLOCK);
  private readonly four = new Float64Array(4 * MAXIMUM_BLOCK);
  private readonly eight = new Float64Array(8 * MAXIMUM_BLOCK);
  private readonly held = new Float64Array(PADDING);
  private readonly last = new Float64Array(PADDING);

  setCurve(curve: SmoothedCurve): void {
    this.curve.setCurve(curve);
  }

  reset(): void {
    for (const stage of [this.outer, this.middle, this.inner]) stage.reset();
    this.curve.reset();
    this.held.fill(0);
  }

  /** Delays the block at eight times the rate, so that the whole latency is one of whole frames. */
  private pad(length: number): void {
    const { eight, held, last } = this;
    for (let i = 0; i < PADDING; i++) last[i] = eight[length - PADDING + i]!;
    for (let i = length - 1; i >= PADDING; i--) eight[i] = eight[i - PADDING]!;
    for (let i = 0; i < PADDING; i++) {
      eight[i] = held[i]!;
      held[i] = last[i]!;
    }
  }

  process(block: Float64Array, frames: number): void {
    const { twice, four, eight } = this;
    this.outer.up(block, frames, twice);
    this.middle.up(twice, 2 * frames, four);
    this.inner.up(four, 4 * frames, eight);
    this.curve.process(eight, 8 * frames);
    this.pad(8 * frames);
    this.inner.down(eight, 4 * frames, four);
    this.middle.down(four, 2 * frames, twice);
    this.outer.down(twice, frames, block);
  }
}

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
      this.y1 = this.b0 * x + this.b1 * this.x1 - this.a1 * this.y1 + 1e-20 - 1e-20;
      this.x1 = x;
      block[i] = this.y1;
    }
  }
}

class Channel {
  readonly curve = new EightfoldCurve();
  readonly lowCut: StateVariableFilter;
  readonly highCut: StateVariableFilter;
  readonly lift: Shelf;
  readonly drop: Shelf;
  readonly dry = new DelayLine(LATENCY + 1);
  readonly wet = new Float64Array(MAXIMUM_BLOCK);
  readonly dark = new Float64Array(MAXIMUM_BLOCK);
  private dcIn = 0;
  private dcOut = 0;
  private readonly dcPole: number;

  constructor(sampleRate: number) {
    this.lowCut = new StateVariableFilter(sampleRate);
    this.highCut = new StateVariableFilter(sampleRate);
    this.lift = new Shelf(sampleRate, EMPHASIS_GAIN);
    this.drop = new Shelf(sampleRate, 1 / EMPHASIS_GAIN);
    this.dcPole = exp((-TWO_PI * DC_HZ) / sampleRate);
  }

  reset(): void {
    for (const part of [this.curve, this.lowCut, this.highCut, this.lift, this.drop]) part.reset();
    this.dry.clear();
    this.dcIn = this.dcOut = 0;
  }

  removeOffset(block: Float64Array, frames: number): void {
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      this.dcOut = x - this.dcIn + this.dcPole * this.dcOut + 1e-20 - 1e-20;
      this.dcIn = x;
      block[i] = this.dcOut;
    }
  }
}

/**
 * Waveshaper at eight times the rate with antiderivative antialiasing on top: false tones of a full-scale sine at 5 kHz
 * stay under -80 dB with every curve and drive. The dry sound is held back by the latency.
 */
class SaturatorKernel implements Kernel {
  readonly latencyFrames = LATENCY;
  readonly rests = true;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly channels: readonly [Channel, Channel];
  private readonly drive = new Ramp(1);
  private readonly makeup = new Ramp(1);
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
  private readonly drives = new Float64Array(MAXIMUM_BLOCK);
  private readonly makeups = new Float64Array(MAXIMUM_BLOCK);
  private readonly mixes = new Float64Array(MAXIMUM_BLOCK);
  private readonly opens = new Float64Array(MAXIMUM_BLOCK);
  private readonly lowAmounts = new Float64Array(MAXIMUM_BLOCK);
  private readonly highAmounts = new Float64Array(MAXIMUM_BLOCK);

  constructor(sampleRate: number, values: readonly number[]) {
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.channels = [new Channel(sampleRate), new Channel(sampleRate)];
    this.curve = values[P.curve]!;
    this.reset();
  }

  tailSeconds(): number {
    return OFFSET_TAIL_SECONDS;
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.v[index] = value;
    this.aim(frames);
  }

  locate(): void {}

  reset(): void {
    this.curve = this.v[P.curve]!;
    for (const channel of this.channels) {
      channel.curve.setCurve(this.shape);
      channel.reset();
    }
    this.open.moveTo(1, 0);
    this.sinceTick = 0;
    this.moved = false;
    this.aim(0);
    this.tune();
  }

  private get shape(): SmoothedCurve {
    return SMOOTHED_CURVES[CURVE_IDS[this.curve]!];
  }

  private get tape(): boolean {
    return CURVE_IDS[this.curve] === 'tape';
  }

  private aim(frames: number): void {
    const { v } = this;
    const drive = dbToGain(v[P.drive]!);
    this.drive.moveTo(drive, frames);
    this.makeup.moveTo(REFERENCE / reachOf(CURVE_IDS[this.curve]!, REFERENCE * drive), frames);
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
      channel.curve.setCurve(this.shape);
      channel.lift.reset();
      channel.drop.reset();
    }
    this.aim(0);
    this.open.moveTo(1, this.rampFrames);
  }

  private get moving(): boolean {
    return !this.lowCutLog.settled || !this.highCutLog.settled;
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    if (!this.moving && !this.moved && this.curve === this.v[P.curve]) {
      this.stretch(left, right, frames, 0);
      this.sinceTick = (this.sinceTick + frames) % TICK;
      return;
    }
    for (let start = 0; start < frames;) {
      if (this.sinceTick === 0) this.tick();
      const count = Math.min(frames - start, TICK - this.sinceTick);
      if (this.moving) this.moved = true;
      for (let i = 0; i < count; i++) {
        this.lowCutLog.next();
        this.highCutLog.next();
      }
      this.stretch(left, right, count, start);
      this.sinceTick = (this.sinceTick + count) % TICK;
      start += count;
    }
  }

  private tick(): void {
    if (this.moved) this.tune();
    this.moved = false;
    if (this.curve !== this.v[P.curve] && this.open.settled && this.open.value === 0) this.takeCurve();
  }

  private stretch(left: Float32Array, right: Float32Array, frames: number, start: number): void {
    this.drive.fill(this.drives, frames);
    this.makeup.fill(this.makeups, frames);
    this.mix.fill(this.mixes, frames);
    this.open.fill(this.opens, frames);
    this.lowCutAmount.fill(this.lowAmounts, frames);
    this.highCutAmount.fill(this.highAmounts, frames);
    this.channel(this.channels[0], left, frames, start);
    this.channel(this.channels[1], right, frames, start);
  }

  private channel(channel: Channel, sound: Float32Array, frames: number, start: number): void {
    const { wet, dark } = channel;
    for (let i = 0; i < frames; i++) wet[i] = dark[i] = sound[start + i]!;
    channel.lowCut.process(dark, frames);
    for (let i = 0; i < frames; i++) {
      wet[i] = (wet[i]! + this.lowAmounts[i]! * (dark[i]! - wet[i]!)) * this.drives[i]!;
    }
    if (this.tape) channel.lift.process(wet, frames);
    channel.curve.process(wet, frames);
    if (this.tape) channel.drop.process(wet, frames);
    channel.removeOffset(wet, frames);
    for (let i = 0; i < frames; i++) dark[i] = wet[i]!;
    channel.highCut.process(dark, frames);
    for (let i = 0; i < frames; i++) {
      const toned = (wet[i]! + this.highAmounts[i]! * (dark[i]! - wet[i]!)) * this.makeups[i]! * this.opens[i]!;
      channel.dry.write(sound[start + i]!);
      const dry = channel.dry.readInteger(LATENCY + 1);
      const mix = this.mixes[i]!;
      sound[start + i] = mix === 0 ? dry : dry + mix * (toned - dry);
    }
  }
}

export const createSaturator: KernelFactory = (sampleRate, values) => new SaturatorKernel(sampleRate, values);
