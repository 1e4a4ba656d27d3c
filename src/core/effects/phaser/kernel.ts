import { guardHeard, guardLoop } from '../../dsp/guard';
import { LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import type { Sides } from '../../dsp/sides';
import { exp, log, tan } from '../../math/elementary';
import { settled } from '../../math/settled';
import { smoothstep } from '../../math/smoothstep';
import type { Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { parameterIndices } from '../parameterIndices';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { phaserSpec, STAGE_COUNTS } from './spec';

const P = parameterIndices(phaserSpec, [
  'centre',
  'rate',
  'depth',
  'stereoPhase',
  'holdSweep',
  'stages',
  'spread',
  'feedback',
  'mix',
]);

/** Frames between two readings of the oscillator. */
const TICK = 32;
const MOST_STAGES = 24;
const LOWEST_HZ = 5;

/** A chain of first-order all-pass stages in one channel, with a way back over one frame. */
class Chain {
  private readonly states = new Float64Array(MOST_STAGES);
  private readonly gains = new Float64Array(MOST_STAGES);
  private readonly steps = new Float64Array(MOST_STAGES);
  private last = 0;

  constructor(readonly count: number) {}

  reset(): void {
    this.states.fill(0);
    this.last = 0;
  }

  /** Sends the stages to their frequencies over the next `frames`; 0 goes there at once. */
  tune(centreHz: number, spreadOctaves: number, sampleRate: number, elapsed: number, frames: number): void {
    const { count, gains, steps } = this;
    for (let stage = 0; stage < count; stage++) {
      const place = count === 1 ? 0 : (2 * stage) / (count - 1) - 1;
      const hz = centreHz * exp(place * 0.5 * spreadOctaves * Math.LN2);
      const g = tan((Math.PI * Math.min(0.49 * sampleRate, Math.max(LOWEST_HZ, hz))) / sampleRate);
      const gain = g / (1 + g);
      gains[stage] = gains[stage]! + steps[stage]! * elapsed;
      steps[stage] = frames === 0 ? 0 : (gain - gains[stage]!) / frames;
      if (frames === 0) gains[stage] = gain;
    }
  }

  /** @param offset frames since it was tuned */
  process(
    sound: Float32Array,
    out: Float64Array,
    feedback: Float64Array,
    start: number,
    count: number,
    offset: number,
  ) {
    const { states, gains, steps, count: stages } = this;
    let { last } = this;
    for (let i = 0; i < count; i++) {
      let x = guardLoop(sound[start + i]! + feedback[start + i]! * last);
      const time = offset + i;
      for (let stage = 0; stage < stages; stage++) {
        const state = states[stage]!;
        const v = (x - state) * (gains[stage]! + steps[stage]! * time);
        const low = v + state;
        states[stage] = settled(low + v);
        x = low + low - x;
      }
      last = x;
      out[start + i] = guardHeard(x);
    }
    this.last = last;
  }
}

/**
 * Cascaded first-order all-pass stages beside the dry sound (Smith, "An allpass approach to digital phasing and
 * flanging", 1984), each as a trapezoidal one-pole that stays stable while it is swept (Zavalishin, "The Art of VA
 * Filter Design", 2012). Where the chain has turned the phase by an odd multiple of half a turn there is a notch: half
 * as many as there are stages.
 */
class PhaserKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly oscillator: LowFrequencyOscillator;
  private chains: readonly [Chain, Chain];
  private oldChains: readonly [Chain, Chain] | null = null;
  private readonly arriving = new Ramp(1);
  private readonly centre = new Ramp(0);
  private readonly depth = new Ramp(0);
  private readonly phase = new Ramp(0);
  private readonly spread = new Ramp(0);
  private readonly feedback = new Ramp(0);
  private readonly mix: EqualPowerMix;
  private offset = TICK;
  private readonly feedbacks = new Float64Array(MAXIMUM_BLOCK);
  private readonly weights = new Float64Array(MAXIMUM_BLOCK);
  private readonly wet: Sides;
  private readonly old = new Float64Array(MAXIMUM_BLOCK);

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, values, memory } = context;
    this.wet = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.oscillator = new LowFrequencyOscillator(sampleRate, 409);
    this.mix = new EqualPowerMix(memory, values[P.mix]!);
    this.chains = this.newChains();
    this.reset();
  }

  readMeters(out: Float64Array): void {
    out[0] = this.oscillator.place;
  }

  tailSeconds(): number {
    const gain = Math.abs(this.v[P.feedback]!) / 100;
    return 0.1 + (gain < 0.001 ? 0 : (0.05 * log(3.16e-5)) / log(gain));
  }

  /** A held sweep would be lost. */
  get canSleep(): boolean {
    return this.v[P.holdSweep] === 0;
  }

  locate(frame: number): void {
    this.oscillator.locate(frame, 0, this.isSounding);
    if (!this.isSounding) this.tune(0, 0);
  }

  reset(): void {
    this.aim(0);
    this.chains = this.newChains();
    this.oldChains = null;
    this.arriving.moveTo(1, 0);
    this.isSounding = false;
    this.offset = TICK;
    this.tune(0, 0);
  }

  private newChains(): readonly [Chain, Chain] {
    const count = STAGE_COUNTS[this.v[P.stages]!]!;
    return [new Chain(count), new Chain(count)];
  }

  protected aim(frames: number): void {
    const { v } = this;
    this.oscillator.configure('sine', v[P.rate]!);
    this.centre.moveTo(log(v[P.centre]!), frames);
    this.depth.moveTo(v[P.depth]! * Math.LN2, frames);
    this.phase.moveTo(v[P.stereoPhase]! / 360, frames);
    this.spread.moveTo(v[P.spread]!, frames);
    this.feedback.moveTo(v[P.feedback]! / 100, frames);
    this.mix.moveTo(v[P.mix]!, frames);
  }

  private tick(): void {
    const elapsed = this.isSounding ? TICK : 0;
    if (this.v[P.holdSweep] === 0) this.oscillator.advance(elapsed);
    for (const ramp of [this.centre, this.depth, this.phase, this.spread]) ramp.skip(elapsed);
    if (this.oldChains && this.arriving.settled) this.oldChains = null;
    if (!this.oldChains && this.chains[0].count !== STAGE_COUNTS[this.v[P.stages]!]) {
      this.oldChains = this.chains;
      this.chains = this.newChains();
      this.tuneTo(this.chains, 0, 0);
      this.arriving.moveTo(0, 0);
      this.arriving.moveTo(1, this.rampFrames);
    }
    this.tune(elapsed, TICK);
    this.offset = 0;
    this.isSounding = true;
  }

  private tune(elapsed: number, frames: number): void {
    this.tuneTo(this.chains, elapsed, frames);
    if (this.oldChains) this.tuneTo(this.oldChains, elapsed, frames);
  }

  private tuneTo(chains: readonly [Chain, Chain], elapsed: number, frames: number): void {
    const held = this.v[P.holdSweep] === 1;
    const ahead = held ? 0 : (frames * this.v[P.rate]!) / this.sampleRate;
    for (let side = 0; side < 2; side++) {
      const swing = this.depth.value * this.oscillator.read(ahead + side * this.phase.value);
      const centre = exp(this.centre.value + swing);
      chains[side as 0 | 1].tune(centre, this.spread.value, this.sampleRate, elapsed, frames);
    }
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { feedbacks, wet, old, weights } = this;
    this.feedback.fill(feedbacks, frames);
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      const count = Math.min(frames - start, TICK - this.offset);
      if (this.oldChains) for (let i = 0; i < count; i++) weights[i] = smoothstep(this.arriving.next());
      for (let side = 0; side < 2; side++) {
        const channel = side as 0 | 1;
        const sound = side === 0 ? left : right;
        this.chains[channel].process(sound, wet[channel], feedbacks, start, count, this.offset);
        if (!this.oldChains) continue;
        this.oldChains[channel].process(sound, old, feedbacks, start, count, this.offset);
        for (let i = 0; i < count; i++) {
          const before = old[start + i]!;
          wet[channel][start + i] = before + weights[i]! * (wet[channel][start + i]! - before);
        }
      }
      this.offset += count;
      start += count;
    }
    this.mix.blend(left, right, wet, frames);
  }
}

export const createPhaser: KernelFactory = (context) => new PhaserKernel(context);
