import { FilterPair } from '../../dsp/filterPair';
import { Ramp } from '../../dsp/ramp';
import { between } from '../../math/between';
import { exp, log, tan } from '../../math/elementary';
import type { Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { placesOf } from '../places';
import { LevelKey } from '../levelKey';
import { deesserSpec } from './spec';

const P = placesOf(deesserSpec, ['frequency', 'width', 'listen', 'threshold', 'amount']);

const RAMP_SECONDS = 0.02;
const ATTACK_SECONDS = 0.001;
const RELEASE_SECONDS = 0.06;
/** A level held this long reads steadily for all esses. */
const HOLD_SECONDS = 0.0005;
const TICK = 16;
const PI = 3.141592653589793;
const LN2 = 0.6931471805599453;

/** A bell that cuts both channels alike: state-variable filters with trapezoidal integrators. */
class Cut {
  private g = 0;
  private inverseQ = 1;
  /** By pairs, left and right: both integrators. */
  private readonly states = new Float64Array(4);

  configure(hz: number, q: number, sampleRate: number): void {
    this.g = tan((PI * Math.min(hz, 0.49 * sampleRate)) / sampleRate);
    this.inverseQ = 1 / q;
  }

  reset(): void {
    this.states.fill(0);
  }

  /**
   * Cuts `frames` frames of both channels in place.
   * @param gains of the centre in every frame, above 0 to 1
   */
  process(left: Float64Array, right: Float64Array, frames: number, gains: Float64Array): void {
    const { g, inverseQ, states } = this;
    let s1 = states[0]!;
    let t1 = states[1]!;
    let s2 = states[2]!;
    let t2 = states[3]!;
    let last = 0;
    let k = 1;
    let a1 = 0;
    let a2 = 0;
    let a3 = 0;
    for (let i = 0; i < frames; i++) {
      const gain = gains[i]!;
      if (gain !== last) {
        last = gain;
        k = inverseQ / Math.sqrt(gain);
        a1 = 1 / (1 + g * (g + k));
        a2 = g * a1;
        a3 = g * a2;
      }
      const l = left[i]!;
      const r = right[i]!;
      const v3 = l - s2;
      const w3 = r - t2;
      const v1 = a1 * s1 + a2 * v3;
      const w1 = a1 * t1 + a2 * w3;
      const v2 = s2 + a2 * s1 + a3 * v3;
      const w2 = t2 + a2 * t1 + a3 * w3;
      s1 = 2 * v1 - s1 + 1e-20 - 1e-20;
      t1 = 2 * w1 - t1 + 1e-20 - 1e-20;
      s2 = 2 * v2 - s2 + 1e-20 - 1e-20;
      t2 = 2 * w2 - t2 + 1e-20 - 1e-20;
      if (gain === 1) continue;
      const cut = (1 - gain) * k;
      left[i] = l - cut * v1;
      right[i] = r - cut * w1;
    }
    states[0] = s1;
    states[1] = t1;
    states[2] = s2;
    states[3] = t2;
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
  private readonly filter: FilterPair;
  private readonly cut = new Cut();
  private readonly level: LevelKey;
  private readonly logFrequency = new Ramp(0);
  private readonly q = new Ramp(1);
  private readonly threshold = new Ramp(0);
  private readonly amount = new Ramp(0);
  private readonly listen = new Ramp(0);
  private readonly attack: number;
  private readonly release: number;
  private readonly bandLeft: Doubles;
  private readonly bandRight: Doubles;
  private readonly cutLeft = new Float64Array(MAXIMUM_BLOCK);
  private readonly cutRight = new Float64Array(MAXIMUM_BLOCK);
  /** Reductions of the block in dB, then its gains. */
  private readonly gains: Doubles;
  private reduction = 0;
  private most = 0;
  private sinceTick = 0;
  /** The band moved since its filter was tuned last. */
  private moved = false;

  constructor({ sampleRate, values, memory }: KernelContext) {
    this.sampleRate = sampleRate;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.filter = new FilterPair(memory, sampleRate);
    this.bandLeft = memory.doubles(MAXIMUM_BLOCK);
    this.bandRight = memory.doubles(MAXIMUM_BLOCK);
    this.gains = memory.doubles(MAXIMUM_BLOCK);
    this.level = new LevelKey(memory, sampleRate);
    this.level.setHold(HOLD_SECONDS);
    this.attack = exp(-1 / (ATTACK_SECONDS * sampleRate));
    this.release = exp(-1 / (RELEASE_SECONDS * sampleRate));
    this.reset();
  }

  tell(out: Float64Array): void {
    out[0] = this.most;
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
    this.filter.reset();
    this.cut.reset();
    this.level.reset();
    this.reduction = 0;
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
    this.filter.configureBoth('bandPass', hz, this.q.value);
    this.cut.configure(hz, this.q.value, this.sampleRate);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    this.most = 0;
    for (let start = 0; start < frames;) {
      if (!this.logFrequency.settled || !this.q.settled) this.moved = true;
      const count = this.moved ? Math.min(frames - start, TICK - this.sinceTick) : frames - start;
      this.stretch(left, right, start, count);
      start += count;
      this.sinceTick = (this.sinceTick + count) % TICK;
      if (!this.moved || this.sinceTick > 0) continue;
      this.tune();
      this.moved = false;
    }
  }

  private stretch(left: Float32Array, right: Float32Array, start: number, count: number): void {
    const { bandLeft, bandRight, cutLeft, cutRight, gains, level, attack, release, threshold, amount } = this;
    for (let i = 0; i < count; i++) {
      bandLeft[i] = cutLeft[i] = left[start + i]!;
      bandRight[i] = cutRight[i] = right[start + i]!;
    }
    this.logFrequency.pass(count);
    this.q.pass(count);
    this.filter.process(bandLeft, bandRight, count);
    level.readPeaks(bandLeft, bandRight, count);
    const { db } = level;
    let { reduction, most } = this;
    for (let i = 0; i < count; i++) {
      const over = db[i]! - threshold.next();
      const limit = amount.next();
      const wanted = over <= 0 ? 0 : over > limit ? -limit : -over;
      const before = reduction;
      reduction = wanted + (wanted < before ? attack : release) * (before - wanted);
      if (reduction > -1e-7) reduction = 0;
      if (reduction < most) most = reduction;
      gains[i] = reduction;
    }
    wasm().loops.gains(gains.byteOffset, count);
    this.reduction = reduction;
    this.most = most;
    this.cut.process(cutLeft, cutRight, count, gains);
    const { listen } = this;
    for (let i = 0; i < count; i++) {
      const heard = listen.next();
      left[start + i] = between(cutLeft[i]!, bandLeft[i]!, heard);
      right[start + i] = between(cutRight[i]!, bandRight[i]!, heard);
    }
  }
}

export const createDeesser: KernelFactory = (context) => new DeesserKernel(context);
