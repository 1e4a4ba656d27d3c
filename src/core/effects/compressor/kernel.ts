import { DelayLine } from '../../dsp/delayLine';
import { Ramp } from '../../dsp/ramp';
import { SlidingMaximum } from '../../dsp/slidingMaximum';
import { between } from '../../math/between';
import { dbToGain, exp } from '../../math/elementary';
import { KeyInput } from '../keyInput';
import type { Kernel, KernelContext, KernelFactory, Inputs } from '../kernel';
import { placesOf } from '../places';
import { LevelKey } from '../levelKey';
import { compressorSpec, INFINITE_RATIO, LONGEST_LOOKAHEAD_MS } from './spec';

const P = placesOf(compressorSpec, [
  'threshold',
  'ratio',
  'knee',
  'attack',
  'release',
  'lookahead',
  'detector',
  'makeup',
  'autoMakeup',
  'mix',
  'keyLowCut',
  'keyHighCut',
  'keyListen',
]);

const RAMP_SECONDS = 0.02;
/** Part of the release for which a peak is held to keep the level of tones steady. */
const HOLD_OF_RELEASE = 0.05;

/**
 * What a level loses, in dB, 0 and down: straight lines of slope 1 and 1/ratio joined by a parabola as wide as the
 * knee (Giannoulis, Massberg and Reiss, "Digital dynamic range compressor design", 2012, equation 4).
 * @param slope 1 - 1 / ratio
 */
export function staticReduction(levelDb: number, thresholdDb: number, slope: number, kneeDb: number): number {
  const over = levelDb - thresholdDb;
  if (2 * over <= -kneeDb) return 0;
  if (2 * over >= kneeDb) return -slope * over;
  const into = over + kneeDb / 2;
  return (-slope * into * into) / (2 * kneeDb);
}

/**
 * Feed-forward compressor: level in dB, static curve, then one-pole smoothing of the reduction with separate attack
 * and release (ibid., smooth branching detector). Both channels share one gain. The latency is always that of the
 * longest look-ahead; a shorter one holds the gain back instead. What looks ahead is the attack alone: the deepest
 * reduction wanted is held for as long as the look-ahead is, so that a loud sound is kept down to its end.
 */
class CompressorKernel implements Kernel {
  private readonly sampleRate: number;
  readonly latencyFrames: number;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly key: KeyInput;
  private readonly level: LevelKey;
  private readonly left: DelayLine;
  private readonly right: DelayLine;
  private readonly keyLeft: DelayLine;
  private readonly keyRight: DelayLine;
  private readonly gains: DelayLine;
  private readonly deepest: SlidingMaximum;
  private readonly threshold: Ramp;
  private readonly slope: Ramp;
  private readonly knee: Ramp;
  private readonly makeup: Ramp;
  private readonly mix: Ramp;
  private readonly listen: Ramp;
  private attack = 0;
  private release = 0;
  private wait = 0;
  private reduction = 0;
  private gain = 1;
  private most = 0;

  constructor({ sampleRate, values }: KernelContext) {
    this.sampleRate = sampleRate;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.latencyFrames = Math.round((LONGEST_LOOKAHEAD_MS / 1000) * sampleRate);
    this.key = new KeyInput(sampleRate);
    this.level = new LevelKey(sampleRate);
    this.left = new DelayLine(this.latencyFrames + 1);
    this.right = new DelayLine(this.latencyFrames + 1);
    this.keyLeft = new DelayLine(this.latencyFrames + 1);
    this.keyRight = new DelayLine(this.latencyFrames + 1);
    this.gains = new DelayLine(this.latencyFrames + 1);
    this.deepest = new SlidingMaximum(this.latencyFrames + 1);
    this.threshold = new Ramp(0);
    this.slope = new Ramp(0);
    this.knee = new Ramp(0);
    this.makeup = new Ramp(1);
    this.mix = new Ramp(1);
    this.listen = new Ramp(0);
    this.reset();
  }

  tell(out: Float64Array): void {
    out[0] = this.most;
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
    this.key.reset();
    this.level.reset();
    this.left.clear();
    this.right.clear();
    this.keyLeft.clear();
    this.keyRight.clear();
    this.deepest.reset();
    this.gains.clear();
    for (let i = 0; i <= this.latencyFrames; i++) this.gains.write(1);
    this.reduction = 0;
    this.gain = 1;
    this.aim(0);
  }

  private aim(frames: number): void {
    const { v, sampleRate } = this;
    const slope = v[P.ratio]! >= INFINITE_RATIO ? 1 : 1 - 1 / v[P.ratio]!;
    const auto = v[P.autoMakeup]! ? -0.5 * staticReduction(0, v[P.threshold]!, slope, v[P.knee]!) : 0;
    this.threshold.moveTo(v[P.threshold]!, frames);
    this.slope.moveTo(slope, frames);
    this.knee.moveTo(v[P.knee]!, frames);
    this.makeup.moveTo(dbToGain(v[P.makeup]! + auto), frames);
    this.mix.moveTo(v[P.mix]! / 100, frames);
    this.listen.moveTo(v[P.keyListen]!, frames);
    this.attack = exp(-1000 / (v[P.attack]! * sampleRate));
    this.release = exp(-1000 / (v[P.release]! * sampleRate));
    const lookahead = Math.round((v[P.lookahead]! / 1000) * sampleRate);
    // What was held before it looked ahead no longer counts.
    if (lookahead > 0 && this.wait === this.latencyFrames) this.deepest.reset();
    this.wait = this.latencyFrames - lookahead;
    this.deepest.setWindow(lookahead + 1);
    this.level.setHold((v[P.release]! / 1000) * HOLD_OF_RELEASE, sampleRate);
    this.key.configure(v[P.keyLowCut]!, v[P.keyHighCut]!);
  }

  process(left: Float32Array, right: Float32Array, frames: number, inputs?: Inputs): void {
    const { key, level, latencyFrames } = this;
    const rms = this.v[P.detector] === 1;
    const looks = this.wait < latencyFrames;
    key.take(left, right, frames, inputs?.[0]);
    this.most = 0;
    for (let i = 0; i < frames; i++) {
      const keyLeft = key.left[i]!;
      const keyRight = key.right[i]!;
      const db = rms ? level.rmsDb(keyLeft, keyRight) : level.peakDb(keyLeft, keyRight);
      const now = staticReduction(db, this.threshold.next(), this.slope.next(), this.knee.next());
      const wanted = looks ? -this.deepest.next(-now) : now;
      const factor = wanted < this.reduction ? this.attack : this.release;
      const before = this.reduction;
      this.reduction = wanted + factor * (before - wanted);
      if (this.reduction > -1e-7) this.reduction = 0;
      if (this.reduction !== before) this.gain = this.reduction === 0 ? 1 : dbToGain(this.reduction);
      if (this.reduction < this.most) this.most = this.reduction;

      this.gains.write(this.gain);
      const gain = this.gains.readInteger(this.wait + 1) * this.makeup.next();
      this.left.write(left[i]!);
      this.right.write(right[i]!);
      const dryLeft = this.left.readInteger(latencyFrames + 1);
      const dryRight = this.right.readInteger(latencyFrames + 1);
      const mix = this.mix.next();
      const weight = 1 - mix + mix * gain;
      const listen = this.listen.next();
      this.keyLeft.write(keyLeft);
      this.keyRight.write(keyRight);
      left[i] = dryLeft * weight;
      right[i] = dryRight * weight;
      if (listen === 0) continue;
      left[i] = between(dryLeft * weight, this.keyLeft.readInteger(latencyFrames + 1), listen);
      right[i] = between(dryRight * weight, this.keyRight.readInteger(latencyFrames + 1), listen);
    }
  }
}

export const createCompressor: KernelFactory = (context) => new CompressorKernel(context);
