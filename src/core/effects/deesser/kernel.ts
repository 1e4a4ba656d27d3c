import { Ramp } from '../../dsp/ramp';
import { StateVariableFilter } from '../../dsp/stateVariableFilter';
import { between } from '../../math/between';
import { dbToGain, exp, log, tan } from '../../math/elementary';
import type { Kernel, KernelContext, KernelFactory } from '../kernel';
import { LevelKey } from '../levelKey';

const enum P {
  frequency,
  width,
  listen,
  threshold,
  amount,
}

const RAMP_SECONDS = 0.02;
const ATTACK_SECONDS = 0.001;
const RELEASE_SECONDS = 0.06;
/** A level held this long reads steadily for all esses. */
const HOLD_SECONDS = 0.0005;
const TICK = 16;
const PI = 3.141592653589793;
const LN2 = 0.6931471805599453;

/** A bell that cuts, one sample at a time: a state-variable filter with trapezoidal integrators. */
class Cut {
  private g = 0;
  private inverseQ = 1;
  /** Those of the gain at which it was last. */
  private gain = 0;
  private k = 1;
  private a1 = 0;
  private a2 = 0;
  private a3 = 0;
  private s1 = 0;
  private s2 = 0;

  configure(hz: number, q: number, sampleRate: number): void {
    this.g = tan((PI * Math.min(hz, 0.49 * sampleRate)) / sampleRate);
    this.inverseQ = 1 / q;
    this.gain = 0;
  }

  reset(): void {
    this.s1 = this.s2 = 0;
  }

  /** @param gain of the centre, above 0 to 1 */
  next(x: number, gain: number): number {
    if (gain !== this.gain) {
      const { g } = this;
      this.gain = gain;
      this.k = this.inverseQ / Math.sqrt(gain);
      this.a1 = 1 / (1 + g * (g + this.k));
      this.a2 = g * this.a1;
      this.a3 = g * this.a2;
    }
    const { a1, a2, s1, s2 } = this;
    const v3 = x - s2;
    const v1 = a1 * s1 + a2 * v3;
    const v2 = s2 + a2 * s1 + this.a3 * v3;
    this.s1 = 2 * v1 - s1 + 1e-20 - 1e-20;
    this.s2 = 2 * v2 - s2 + 1e-20 - 1e-20;
    return gain === 1 ? x : x - (1 - gain) * this.k * v1;
  }
}

/**
 * Cuts like a bell: takes part of a band-pass of unit gain away from the sound, on the centre by exactly the reduction,
 * nothing far away. The band-pass is the wider the deeper the cut, by the root of its gain, so that the cut is as wide
 * half way down whatever its depth (bandwidth of a bell after Bristow-Johnson, "Cookbook formulae for audio equalizer
 * biquad filter coefficients", 2005). The reduction is what the band is over the threshold, up to the amount, with a
 * fast attack and a release of 60 ms. Both channels share it.
 */
class DeesserKernel implements Kernel {
  private readonly sampleRate: number;
  readonly latencyFrames = 0;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly filters: readonly [StateVariableFilter, StateVariableFilter];
  private readonly cuts = [new Cut(), new Cut()] as const;
  private readonly level: LevelKey;
  private readonly logFrequency = new Ramp(0);
  private readonly q = new Ramp(1);
  private readonly threshold = new Ramp(0);
  private readonly amount = new Ramp(0);
  private readonly listen = new Ramp(0);
  private readonly attack: number;
  private readonly release: number;
  private readonly bandLeft = new Float64Array(TICK);
  private readonly bandRight = new Float64Array(TICK);
  private reduction = 0;
  private gain = 1;
  private most = 0;
  private sinceTick = 0;
  /** The band moved since its filter was tuned last. */
  private moved = false;

  constructor({ sampleRate, values }: KernelContext) {
    this.sampleRate = sampleRate;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.filters = [new StateVariableFilter(sampleRate), new StateVariableFilter(sampleRate)];
    this.level = new LevelKey(sampleRate);
    this.level.setHold(HOLD_SECONDS, sampleRate);
    this.attack = exp(-1 / (ATTACK_SECONDS * sampleRate));
    this.release = exp(-1 / (RELEASE_SECONDS * sampleRate));
    this.reset();
  }

  get reductionDb(): number {
    return this.most;
  }

  tailSeconds(): number {
    return 0.02;
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.v[index] = value;
    this.aim(frames);
  }

  locate(): void {}

  reset(): void {
    for (const filter of [...this.filters, ...this.cuts]) filter.reset();
    this.level.reset();
    this.reduction = 0;
    this.gain = 1;
    this.sinceTick = 0;
    this.moved = false;
    this.aim(0);
    this.tune();
  }

  private aim(frames: number): void {
    const { v } = this;
    this.logFrequency.moveTo(log(v[P.frequency]!), frames);
    // Q of a band-pass whose edges at -3 dB lie this many octaves apart.
    const ratio = exp(v[P.width]! * LN2);
    this.q.moveTo(Math.sqrt(ratio) / (ratio - 1), frames);
    this.threshold.moveTo(v[P.threshold]!, frames);
    this.amount.moveTo(v[P.amount]!, frames);
    this.listen.moveTo(v[P.listen]!, frames);
  }

  private tune(): void {
    const hz = exp(this.logFrequency.value);
    for (const filter of this.filters) filter.configure('bandPass', hz, this.q.value);
    for (const cut of this.cuts) cut.configure(hz, this.q.value, this.sampleRate);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    this.most = 0;
    for (let start = 0; start < frames;) {
      if (!this.logFrequency.settled || !this.q.settled) this.moved = true;
      const count = Math.min(frames - start, TICK - this.sinceTick);
      this.stretch(left, right, start, count);
      start += count;
      this.sinceTick = (this.sinceTick + count) % TICK;
      if (!this.moved || this.sinceTick > 0) continue;
      this.tune();
      this.moved = false;
    }
  }

  private stretch(left: Float32Array, right: Float32Array, start: number, count: number): void {
    const { bandLeft, bandRight, level } = this;
    for (let i = 0; i < count; i++) {
      bandLeft[i] = left[start + i]!;
      bandRight[i] = right[start + i]!;
      this.logFrequency.next();
      this.q.next();
    }
    this.filters[0].process(bandLeft, count);
    this.filters[1].process(bandRight, count);
    for (let i = 0; i < count; i++) {
      const l = bandLeft[i]!;
      const r = bandRight[i]!;
      const over = level.peakDb(l, r) - this.threshold.next();
      const amount = this.amount.next();
      const wanted = over <= 0 ? 0 : over > amount ? -amount : -over;
      const before = this.reduction;
      this.reduction = wanted + (wanted < before ? this.attack : this.release) * (before - wanted);
      if (this.reduction > -1e-7) this.reduction = 0;
      if (this.reduction !== before) this.gain = this.reduction === 0 ? 1 : dbToGain(this.reduction);
      if (this.reduction < this.most) this.most = this.reduction;
      const listen = this.listen.next();
      const at = start + i;
      left[at] = between(this.cuts[0].next(left[at]!, this.gain), l, listen);
      right[at] = between(this.cuts[1].next(right[at]!, this.gain), r, listen);
    }
  }
}

export const createDeesser: KernelFactory = (context) => new DeesserKernel(context);
