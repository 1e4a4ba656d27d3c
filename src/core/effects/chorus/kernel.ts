import { LFO_SHAPES, LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { bucketTopHz, Narrowing } from '../../dsp/narrowing';
import { Noise } from '../../dsp/noise';
import { Ramp } from '../../dsp/ramp';
import type { Sides } from '../../dsp/sides';
import { Ring, SINC_AHEAD, SINC_NEAREST } from '../../dsp/ring';
import { between } from '../../math/between';
import { exp, log } from '../../math/elementary';
import { settled } from '../../math/settled';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { parameterIndices } from '../parameterIndices';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { GrainVoice, type PlaceOfGrain } from './grains';
import { chorusSpec, HIGHEST_BAND_HZ, LOWEST_BAND_HZ, MOST_VOICES, movingBand, WINDOWS } from './spec';
import { SplitBand } from './splitBand';

const P = parameterIndices(chorusSpec, [
  'voices',
  'delay',
  'rate',
  'depth',
  'shape',
  'spread',
  'feedback',
  'motion',
  'grainSize',
  'density',
  'jitter',
  'randomPhase',
  'bandLow',
  'bandHigh',
  'window',
  'wear',
  'noise',
  'width',
  'mix',
]);

/** Frames between two readings of the oscillator. */
const TICK = 32;
const GLIDE_SECONDS = 0.06;
const LONGEST_MS = 50;
const NEAREST = SINC_NEAREST;
/** By how much the copy nearest to the sound is nearer than the mean of all, and the farthest farther, as a part. */
const STAGGER = 0.2;
/** Cells of a fresh bucket brigade, and by how much fully worn ones are fewer, as a factor. */
const CELLS = 4096;
const LOST_CELLS = log(8);
const BOTTOM_HZ = 10;
const NOISE_LEVEL = 0.015;
const ENVELOPE_SECONDS = 0.06;

/** One copy: where both its sides read, moving in a straight line through the tick. */
interface Voice {
  readonly delays: [number, number];
  readonly steps: [number, number];
  readonly gain: Ramp;
  /** Its place in the cycle. */
  readonly place: Ramp;
  /** Its mean delay as a factor of the delay asked for. */
  readonly stagger: Ramp;
  /** With a seed of its own, so that random movement is its own. */
  readonly oscillator: LowFrequencyOscillator;
  readonly grains: GrainVoice;
  /** Heard at some frame of this tick. */
  heard: boolean;
}

/**
 * Modulated copies of a band of the sound beside the sound itself (Dattorro, "Effect design, part 2: delay-line
 * modulation and chorus", 1997). A copy is late by delay x (1 + depth x oscillator). Copies are spread evenly over the
 * cycle, and their delays over some part to both sides of the delay asked for: were they alike, the copies of the right
 * side would be those of the left in another order wherever the spread is a multiple of the step between two of them.
 * Which parts are at work is decided once a tick, so that block sizes do not change it. The rest of the sound, outside
 * the band, passes untouched, in phase and not mixed.
 */
class ChorusKernel extends ParameterKernel implements Kernel {
  private readonly wasmKernels = wasm().kernels;
  private readonly rings: readonly [Ring, Ring];
  private readonly voices: readonly Voice[];
  private readonly narrowing: Narrowing;
  private readonly dull: Sides;
  private readonly hiss = [new Noise(521), new Noise(522)] as const;
  private readonly glideFrames: number;
  private readonly longest: number;
  private readonly envelopeFactor: number;
  private envelope = 0;
  private readonly delay = new Ramp(0);
  private readonly depth = new Ramp(0);
  private readonly spread = new Ramp(0);
  private readonly feedback = new Ramp(0);
  private readonly grainy = new Ramp(0);
  private readonly low = new Ramp(0);
  private readonly high = new Ramp(0);
  private readonly wear = new Ramp(0);
  private readonly noise = new Ramp(0);
  private readonly width = new Ramp(1);
  private readonly mix: EqualPowerMix;
  /** The moving part of the sound. */
  private readonly moving: SplitBand;
  /** Frames by which the band is behind the session, and the oscillator with it. */
  private readonly late = new Ramp(0);
  private offset = TICK;
  /** The place in the session of the next frame. */
  private frame = 0;
  /** Active at some frame of this tick: grains, continuous motion, wear, feedback. */
  private grained = false;
  private continuous = true;
  private worn = false;
  private hasFeedback = false;
  /** Input of the rings with feedback. */
  private readonly fed: Sides;
  private readonly copies: Doubles;
  private readonly wet: Sides;
  private readonly inGrains = blocks();
  private readonly gains: Doubles;
  private readonly moreGains = new Float64Array(MAXIMUM_BLOCK);
  private readonly placeOfGrain: PlaceOfGrain[];

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, values, memory } = context;
    this.glideFrames = Math.round(GLIDE_SECONDS * sampleRate);
    this.longest = 2 * Math.ceil((1 + STAGGER) * (LONGEST_MS / 1000) * sampleRate);
    this.envelopeFactor = exp(-1 / (ENVELOPE_SECONDS * sampleRate));
    this.moving = new SplitBand(memory, sampleRate, this.rampFrames);
    const ring = () => new Ring(memory, this.longest + NEAREST + TICK);
    this.rings = [ring(), ring()];
    this.fed = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.wet = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.gains = memory.doubles(MAXIMUM_BLOCK);
    this.copies = memory.doubles(MAXIMUM_BLOCK);
    this.narrowing = new Narrowing(memory, sampleRate);
    this.dull = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.voices = Array.from({ length: MOST_VOICES }, (_, n) => ({
      delays: [0, 0],
      steps: [0, 0],
      gain: new Ramp(0),
      place: new Ramp(0),
      stagger: new Ramp(1),
      oscillator: new LowFrequencyOscillator(sampleRate, 613 + n),
      grains: new GrainVoice(memory, sampleRate, 733 + n),
      heard: false,
    }));
    this.placeOfGrain = this.voices.map((_, voice): PlaceOfGrain => (side, phase, strayed) => {
      const random = (phase * this.v[P.randomPhase]!) / 100;
      const jitter = 1 + (0.5 * strayed * this.v[P.jitter]!) / 100;
      return Math.min(this.longest, Math.max(TICK, this.sweptDelay(voice, side, random) * jitter));
    });
    this.mix = new EqualPowerMix(memory, values[P.mix]!);
    this.reset();
  }

  get latencyFrames(): number {
    return this.wantedWindow;
  }

  tailSeconds(): number {
    const gain = Math.abs(this.v[P.feedback]!) / 100;
    const reach = (2 * (1 + STAGGER) * this.v[P.delay]! + this.v[P.grainSize]!) / 1000 + 0.05;
    return gain < 0.001 ? reach : reach * (1 + Math.ceil(log(3.16e-5) / log(gain)));
  }

  override setParameter(index: number, value: number, frames?: number): void {
    this.v[index] = value;
    this.aim(frames ?? this.rampFrames, frames ?? this.glideFrames);
  }

  get canSleep(): boolean {
    return this.v[P.noise] === 0;
  }

  locate(frame: number): void {
    for (const { oscillator } of this.voices) oscillator.locate(frame, 0, this.isSounding);
    this.frame = frame;
    if (!this.isSounding) this.settle();
  }

  reset(): void {
    this.aim(0);
    for (const ring of this.rings) ring.clear();
    this.narrowing.reset();
    for (const { grains } of this.voices) grains.reset();
    this.moving.reset(this.wantedWindow, exp(this.low.value), exp(this.high.value));
    this.envelope = 0;
    this.isSounding = false;
    this.settle();
  }

  readMeters(out: Float64Array): void {
    out[0] = this.voices[0]!.oscillator.place;
    const count = this.v[P.voices]! + 1;
    const inGrains = this.v[P.motion] === 1;
    for (let n = 0; n < 2 * MOST_VOICES; n++) {
      const { delays, steps, grains } = this.voices[n >> 1]!;
      const side = (n & 1) as 0 | 1;
      const frames = inGrains ? grains.latest(side) : delays[side] + steps[side] * this.offset;
      out[1 + n] = n >> 1 < count ? frames / this.sampleRate : NaN;
    }
  }

  /** Length of the transform that splits off the band; 0 while the whole sound moves. */
  private get wantedWindow(): number {
    const { v } = this;
    const whole = v[P.bandLow]! <= LOWEST_BAND_HZ && v[P.bandHigh]! >= HIGHEST_BAND_HZ;
    return whole ? 0 : WINDOWS[v[P.window]!]!;
  }

  protected aim(frames: number, glide = frames): void {
    const { v } = this;
    this.late.moveTo(this.wantedWindow, glide);
    this.delay.moveTo((v[P.delay]! / 1000) * this.sampleRate, glide);
    this.depth.moveTo(v[P.depth]! / 100, glide);
    this.spread.moveTo(v[P.spread]! / 360, glide);
    this.grainy.moveTo(v[P.motion]!, frames);
    const { lowHz, highHz } = movingBand(v[P.bandLow]!, v[P.bandHigh]!);
    this.low.moveTo(log(lowHz), frames);
    this.high.moveTo(log(highHz), frames);
    this.wear.moveTo(v[P.wear]! / 100, frames);
    this.noise.moveTo(v[P.noise]! / 100, frames);
    this.width.moveTo(v[P.width]! / 100, frames);
    this.mix.moveTo(v[P.mix]!, frames);
    const count = v[P.voices]! + 1;
    // All copies together go round with the gain of one.
    this.feedback.moveTo(v[P.feedback]! / 100 / Math.sqrt(count), frames);
    this.voices.forEach(({ gain, place, stagger, oscillator }, voice) => {
      oscillator.configure(LFO_SHAPES[v[P.shape]!]!, v[P.rate]!);
      gain.moveTo(voice < count ? 1 / Math.sqrt(count) : 0, frames);
      if (voice >= count) return;
      place.moveTo(voice / count, glide);
      stagger.moveTo(count === 1 ? 1 : 1 + STAGGER * ((2 * voice) / (count - 1) - 1), glide);
    });
  }

  private sweptDelay(voice: number, side: number, phase: number): number {
    const behind = (this.late.value * this.v[P.rate]!) / this.sampleRate;
    const { place, stagger, oscillator } = this.voices[voice]!;
    const at = phase + place.value + side * this.spread.value - behind;
    const swung = this.delay.value * stagger.value * (1 + this.depth.value * oscillator.read(at));
    return Math.min(this.longest, Math.max(NEAREST + 1, swung));
  }

  /** Cycles by which the oscillators are on at the end of a tick. */
  private get ahead(): number {
    return (TICK * this.v[P.rate]!) / this.sampleRate;
  }

  /** Goes to where the copies are at once. */
  private settle(): void {
    this.offset = TICK;
    this.voices.forEach((voice, n) => {
      for (const side of [0, 1] as const) {
        voice.delays[side] = this.sweptDelay(n, side, 0);
        voice.steps[side] = 0;
      }
    });
  }

  /** Puts the copies of a voice where they are so many cycles on. */
  private put(voice: number, ahead: number): void {
    const { delays, steps } = this.voices[voice]!;
    for (const side of [0, 1] as const) {
      delays[side] = this.sweptDelay(voice, side, ahead);
      steps[side] = 0;
    }
  }

  private tick(): void {
    const elapsed = this.isSounding ? TICK : 0;
    const { ahead } = this;
    const bandMoved = !this.low.settled || !this.high.settled;
    for (const ramp of [this.delay, this.depth, this.spread, this.low, this.high, this.late]) ramp.skip(elapsed);
    for (let n = 0; n < this.voices.length; n++) {
      const voice = this.voices[n]!;
      voice.oscillator.advance(elapsed);
      voice.place.skip(elapsed);
      voice.stagger.skip(elapsed);
      // A silent one is put in its place when it comes to be heard.
      if (voice.gain.idle) {
        voice.heard = false;
        continue;
      }
      if (!voice.heard) this.put(n, 0);
      voice.heard = true;
      for (const side of [0, 1] as const) {
        voice.delays[side] += voice.steps[side] * elapsed;
        voice.steps[side] = (this.sweptDelay(n, side, ahead) - voice.delays[side]) / TICK;
      }
    }
    const [lowHz, highHz] = [exp(this.low.value), exp(this.high.value)];
    if (bandMoved) this.moving.configure(lowHz, highHz);
    const cells = CELLS * exp(-LOST_CELLS * this.wear.value);
    const top = bucketTopHz(cells, Math.max(1, this.delay.value) / this.sampleRate);
    for (const side of [0, 1] as const) this.narrowing.tune(side, BOTTOM_HZ, Math.min(0.45 * this.sampleRate, top));
    this.moving.aim(this.wantedWindow, lowHz, highHz);
    this.grained = !this.grainy.idle;
    this.continuous = !full(this.grainy);
    this.worn = !this.wear.idle || !this.noise.idle;
    this.hasFeedback = !this.feedback.idle;
    this.offset = 0;
    this.isSounding = true;
  }

  process(left: Floats, right: Floats, frames: number): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      this.grained ||= !this.grainy.idle;
      this.continuous ||= !full(this.grainy);
      this.worn ||= !this.wear.idle || !this.noise.idle;
      this.hasFeedback ||= !this.feedback.idle;
      for (let n = 0; n < this.voices.length; n++) {
        const voice = this.voices[n]!;
        if (voice.heard || voice.gain.idle) continue;
        this.put(n, this.ahead);
        voice.heard = true;
      }
      let count = Math.min(frames - start, TICK - this.offset);
      if (this.hasFeedback) count = Math.min(count, this.readable());
      this.moving.take(left, right, start, count);
      this.copy(count);
      this.putTogether(left, right, start, count);
      this.offset += count;
      this.frame += count;
      start += count;
    }
  }

  /** Frames that can be read before something must be written. */
  private readable(): number {
    let nearest = this.longest;
    for (const { heard, delays, steps } of this.voices) {
      if (!heard) continue;
      for (const side of [0, 1] as const) {
        nearest = Math.min(nearest, delays[side] + steps[side] * this.offset, delays[side] + steps[side] * TICK);
      }
    }
    return Math.max(1, Math.floor(nearest) - SINC_AHEAD);
  }

  /** Reads all copies of the band and writes it; where nothing goes round it is written first, and copies can be near. */
  private copy(count: number): void {
    const { wasmKernels, voices, rings, wet, fed, copies, offset, gains } = this;
    const { band } = this.moving;
    const written = this.hasFeedback ? 0 : count;
    for (const block of wet) block.fill(0, 0, count);
    if (this.grained) for (const block of this.inGrains) block.fill(0, 0, count);
    if (!this.hasFeedback) for (const side of [0, 1] as const) rings[side].write(band[side], count, true);
    for (let n = 0; n < voices.length; n++) {
      const { gain, delays, steps, heard } = voices[n]!;
      if (!heard) continue;
      const given = gain.settled && !this.grained ? 0 : gains.byteOffset;
      const steady = gain.value;
      if (given) gain.fill(gains, count);
      for (let side = 0; this.continuous && side < 2; side++) {
        const channel = side as 0 | 1;
        const out = wet[channel];
        rings[channel].read(copies, delays[channel], steps[channel], offset, NEAREST, count, written);
        wasmKernels.addScaled(out.byteOffset, copies.byteOffset, steady, given, count);
      }
      if (this.grained) this.grain(n, written, count);
    }
    if (this.grained) {
      this.grainy.fill(gains, count);
      for (let i = 0; i < count; i++) {
        wet[0][i] = between(wet[0][i]!, this.inGrains[0][i]!, gains[i]!);
        wet[1][i] = between(wet[1][i]!, this.inGrains[1][i]!, gains[i]!);
      }
    }
    if (this.worn) this.wearOut(count);
    if (!this.hasFeedback) return;
    this.feedback.fill(gains, count);
    for (const side of [0, 1] as const) {
      for (let i = 0; i < count; i++) fed[side][i] = band[side][i]! + gains[i]! * wet[side][i]!;
      rings[side].write(fed[side], count, true);
    }
  }

  /** @param written frames of the stretch that are in the rings already */
  private grain(voice: number, written: number, count: number): void {
    const { v, inGrains, rings, gains } = this;
    const frames = (v[P.grainSize]! / 1000) * this.sampleRate;
    const { grains } = this.voices[voice]!;
    const place = this.placeOfGrain[voice]!;
    grains.process(rings, written, this.frame, frames, v[P.density]!, place, inGrains, count, gains);
  }

  /** Bucket brigade and compander of the copies. */
  private wearOut(count: number): void {
    const { wet, dull, gains, moreGains, envelopeFactor } = this;
    this.wear.fill(gains, count);
    this.noise.fill(moreGains, count);
    for (const side of [0, 1] as const) for (let i = 0; i < count; i++) dull[side][i] = wet[side][i]!;
    this.narrowing.process(dull[0], dull[1], count);
    for (const side of [0, 1] as const) {
      const block = wet[side];
      for (let i = 0; i < count; i++) {
        const x = block[i]! + gains[i]! * (dull[side][i]! - block[i]!);
        const inside = x > 1.5 ? 1.5 : x < -1.5 ? -1.5 : x;
        block[i] = x - gains[i]! * (4 / 27) * inside * inside * inside;
      }
    }
    for (let i = 0; i < count; i++) {
      const level = Math.max(Math.abs(wet[0][i]!), Math.abs(wet[1][i]!));
      const fallen = this.envelope * envelopeFactor;
      this.envelope = level > fallen ? level : settled(fallen);
      const hiss = moreGains[i]! * moreGains[i]! * NOISE_LEVEL * (0.05 + 4 * Math.min(0.5, this.envelope));
      wet[0][i] = wet[0][i]! + hiss * this.hiss[0].white();
      wet[1][i] = wet[1][i]! + hiss * this.hiss[1].white();
    }
  }

  /** Mixes the band with its copies and adds the rest. */
  private putTogether(left: Floats, right: Floats, start: number, count: number): void {
    const { wet, width, wasmKernels } = this;
    const [wetLeft, wetRight] = [wet[0].byteOffset, wet[1].byteOffset];
    wasmKernels.guardSides(wetLeft, wetRight, count);
    if (!width.settled) this.widen(count);
    else if (width.value !== 1) wasmKernels.widen(wetLeft, wetRight, wetLeft, wetRight, 1, width.value, count);
    const { whole, band, rest } = this.moving;
    if (whole) this.mix.blend(left, right, wet, count, start);
    else this.mix.blendBand(left, right, band, rest, wet, count, start);
    // Band and rest can each be louder than the sound they come from; unmixed they are left as they are.
    if (this.mix.wetGain === 0) return;
    wasmKernels.guardOutputs(left.byteOffset + 4 * start, right.byteOffset + 4 * start, count);
  }

  /** The copies at a width that moves. */
  private widen(count: number): void {
    const { wet, width, gains } = this;
    width.fill(gains, count);
    for (let i = 0; i < count; i++) {
      const middle = 0.5 * (wet[0][i]! + wet[1][i]!);
      const side = 0.5 * gains[i]! * (wet[0][i]! - wet[1][i]!);
      wet[0][i] = middle + side;
      wet[1][i] = middle - side;
    }
  }
}

type Blocks = readonly [Float64Array, Float64Array];

function blocks(): Blocks {
  return [new Float64Array(MAXIMUM_BLOCK), new Float64Array(MAXIMUM_BLOCK)];
}

function full(gain: Ramp): boolean {
  return gain.settled && gain.value === 1;
}

export const createChorus: KernelFactory = (context) => new ChorusKernel(context);
