import { Ramp } from '../../dsp/ramp';
import { StateVariableFilter } from '../../dsp/stateVariableFilter';
import { dbToGain, exp, log } from '../../math/elementary';
import { MAXIMUM_BLOCK, type Kernel, type KernelFactory } from '../kernel';
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
const LN2 = 0.6931471805599453;

/**
 * Takes away part of a band-pass of unit gain from the sound: on the centre by exactly the reduction, little by little
 * less beside it, nothing far away. The reduction is what the band is over the threshold, up to the amount, with a
 * fast attack and a release of 60 ms. Both channels share it.
 */
class DeesserKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly filters: readonly [StateVariableFilter, StateVariableFilter];
  private readonly level: LevelKey;
  private readonly logFrequency = new Ramp(0);
  private readonly q = new Ramp(1);
  private readonly threshold = new Ramp(0);
  private readonly amount = new Ramp(0);
  private readonly listen = new Ramp(0);
  private readonly attack: number;
  private readonly release: number;
  private readonly bandLeft = new Float64Array(MAXIMUM_BLOCK);
  private readonly bandRight = new Float64Array(MAXIMUM_BLOCK);
  private readonly partLeft = new Float64Array(TICK);
  private readonly partRight = new Float64Array(TICK);
  private reduction = 0;
  private gain = 1;
  private most = 0;
  private sinceTick = 0;
  /** The band moved since its filter was tuned last. */
  private moved = false;

  constructor(sampleRate: number, values: readonly number[]) {
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
    for (const filter of this.filters) filter.reset();
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
    for (const filter of this.filters) filter.configure('bandPass', exp(this.logFrequency.value), this.q.value);
  }

  /** Fills the band buffers with the watched band. */
  private split(left: Float32Array, right: Float32Array, frames: number): void {
    const { bandLeft, bandRight, partLeft, partRight } = this;
    for (let start = 0; start < frames;) {
      if (!this.logFrequency.settled || !this.q.settled) this.moved = true;
      const count = Math.min(frames - start, TICK - this.sinceTick);
      for (let i = 0; i < count; i++) {
        partLeft[i] = left[start + i]!;
        partRight[i] = right[start + i]!;
        this.logFrequency.next();
        this.q.next();
      }
      this.filters[0].process(partLeft, count);
      this.filters[1].process(partRight, count);
      for (let i = 0; i < count; i++) {
        bandLeft[start + i] = partLeft[i]!;
        bandRight[start + i] = partRight[i]!;
      }
      start += count;
      this.sinceTick = (this.sinceTick + count) % TICK;
      if (!this.moved || this.sinceTick > 0) continue;
      this.tune();
      this.moved = false;
    }
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const { bandLeft, bandRight, level } = this;
    this.split(left, right, frames);
    this.most = 0;
    for (let i = 0; i < frames; i++) {
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
      const away = 1 - this.gain;
      const listen = this.listen.next();
      const outLeft = left[i]! - away * l;
      const outRight = right[i]! - away * r;
      left[i] = outLeft + listen * (l - outLeft);
      right[i] = outRight + listen * (r - outRight);
    }
  }
}

export const createDeesser: KernelFactory = (sampleRate, values) => new DeesserKernel(sampleRate, values);
