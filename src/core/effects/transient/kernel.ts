import { Ramp } from '../../dsp/ramp';
import { dbToGain, exp } from '../../math/elementary';
import type { Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { placesOf } from '../places';
import { LevelKey } from '../levelKey';
import { transientSpec } from './spec';

const P = placesOf(transientSpec, ['attack', 'sustain', 'output']);

const RAMP_SECONDS = 0.02;
/** The two followers that part at beginnings ... */
const RISE_FAST = 0.0008;
const RISE_SLOW = 0.025;
/** ... and those that part while a sound dies away. */
const FALL_FAST = 0.02;
const FALL_SLOW = 0.35;
const MOST_DB = 18;
const SMOOTH_SECONDS = 0.0003;

/**
 * Level-independent shaping by the difference of envelopes in decibels: a fast and a slow riser differ at the
 * beginning of a sound, a slow and a fast faller while it dies away; a steady sound is left alone. Both channels share
 * one gain.
 */
class TransientKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly level: LevelKey;
  private readonly attack = new Ramp(0);
  private readonly sustain = new Ramp(0);
  private readonly output = new Ramp(1);
  private readonly factors: readonly number[];
  private readonly smoothing: number;
  private riseFast = LevelKey.FLOOR_DB;
  private riseSlow = LevelKey.FLOOR_DB;
  private fallFast = LevelKey.FLOOR_DB;
  private fallSlow = LevelKey.FLOOR_DB;
  private shapedDb = 0;
  private readonly keyLeft: Doubles;
  private readonly keyRight: Doubles;
  /** What the block is lifted by, in dB, then as gains. */
  private readonly shaped: Doubles;

  constructor({ sampleRate, values, memory }: KernelContext) {
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.level = new LevelKey(memory, sampleRate);
    this.keyLeft = memory.doubles(MAXIMUM_BLOCK);
    this.keyRight = memory.doubles(MAXIMUM_BLOCK);
    this.shaped = memory.doubles(MAXIMUM_BLOCK);
    const factor = (seconds: number) => exp(-1 / (seconds * sampleRate));
    this.factors = [RISE_FAST, RISE_SLOW, FALL_FAST, FALL_SLOW].map(factor);
    this.smoothing = factor(SMOOTH_SECONDS);
    this.reset();
  }

  tailSeconds(): number {
    return 0;
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.v[index] = value;
    this.aim(frames);
  }

  locate(): void {}

  reset(): void {
    this.level.reset();
    this.riseFast = this.riseSlow = this.fallFast = this.fallSlow = LevelKey.FLOOR_DB;
    this.shapedDb = 0;
    this.aim(0);
  }

  private aim(frames: number): void {
    this.attack.moveTo(this.v[P.attack]! / 100, frames);
    this.sustain.moveTo(this.v[P.sustain]! / 100, frames);
    this.output.moveTo(dbToGain(this.v[P.output]!), frames);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const [riseFastFactor, riseSlowFactor, fallFastFactor, fallSlowFactor] = this.factors as [
      number,
      number,
      number,
      number,
    ];
    const { keyLeft, keyRight, shaped, smoothing } = this;
    for (let i = 0; i < frames; i++) {
      keyLeft[i] = left[i]!;
      keyRight[i] = right[i]!;
    }
    this.level.readPeaks(keyLeft, keyRight, frames);
    const levels = this.level.db;
    let { riseFast, riseSlow, fallFast, fallSlow, shapedDb } = this;
    for (let i = 0; i < frames; i++) {
      // Below -80 dB is noise, not a sound that begins.
      const db = Math.max(-80, levels[i]!);
      riseFast = db + (db > riseFast ? riseFastFactor : fallFastFactor) * (riseFast - db);
      riseSlow = db + (db > riseSlow ? riseSlowFactor : fallFastFactor) * (riseSlow - db);
      fallFast = db > fallFast ? db : db + fallFastFactor * (fallFast - db);
      fallSlow = db > fallSlow ? db : db + fallSlowFactor * (fallSlow - db);
      const wanted = this.attack.next() * (riseFast - riseSlow) + this.sustain.next() * (fallSlow - fallFast);
      const bounded = wanted > MOST_DB ? MOST_DB : wanted < -MOST_DB ? -MOST_DB : wanted;
      shapedDb = bounded + smoothing * (shapedDb - bounded);
      if (shapedDb < 1e-7 && shapedDb > -1e-7) shapedDb = 0;
      shaped[i] = shapedDb;
    }
    wasm().loops.gains(shaped.byteOffset, frames);
    for (let i = 0; i < frames; i++) {
      const gain = shaped[i]! * this.output.next();
      left[i] = left[i]! * gain;
      right[i] = right[i]! * gain;
    }
    this.shapedDb = shapedDb;
    this.riseFast = riseFast;
    this.riseSlow = riseSlow;
    this.fallFast = fallFast;
    this.fallSlow = fallSlow;
  }
}

export const createTransient: KernelFactory = (context) => new TransientKernel(context);
