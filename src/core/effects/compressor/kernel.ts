import { Ramp } from '../../dsp/ramp';
import { SlidingMaximum } from '../../dsp/slidingMaximum';
import { between } from '../../math/between';
import { dbToGain, exp } from '../../math/elementary';
import { powerOfTwoFrom } from '../../math/powerOfTwo';
import type { Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { KeyInput } from '../keyInput';
import { MAXIMUM_BLOCK, type Inputs, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
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
  /** What waits: sound, key and gains, of as many frames each as a power of two. */
  private readonly left: Float32Array;
  private readonly right: Float32Array;
  private readonly keyLeft: Float32Array;
  private readonly keyRight: Float32Array;
  private readonly gains: Float32Array;
  private write = 0;
  /** Reductions of the block in dB, then its gains. */
  private readonly work: Doubles;
  private readonly thresholds = new Float64Array(MAXIMUM_BLOCK);
  private readonly slopes = new Float64Array(MAXIMUM_BLOCK);
  private readonly knees = new Float64Array(MAXIMUM_BLOCK);
  private readonly makeups = new Float64Array(MAXIMUM_BLOCK);
  private readonly mixes = new Float64Array(MAXIMUM_BLOCK);
  private readonly listens = new Float64Array(MAXIMUM_BLOCK);
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
  private most = 0;

  constructor({ sampleRate, values, memory }: KernelContext) {
    this.sampleRate = sampleRate;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.latencyFrames = Math.round((LONGEST_LOOKAHEAD_MS / 1000) * sampleRate);
    this.key = new KeyInput(memory, sampleRate);
    this.level = new LevelKey(memory, sampleRate);
    const size = powerOfTwoFrom(Math.max(16, this.latencyFrames + 1));
    this.left = new Float32Array(size);
    this.right = new Float32Array(size);
    this.keyLeft = new Float32Array(size);
    this.keyRight = new Float32Array(size);
    this.gains = new Float32Array(size);
    this.work = memory.doubles(MAXIMUM_BLOCK);
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
    for (const ring of [this.left, this.right, this.keyLeft, this.keyRight]) ring.fill(0);
    this.gains.fill(1);
    this.deepest.reset();
    this.reduction = 0;
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
    this.level.setHold((v[P.release]! / 1000) * HOLD_OF_RELEASE);
    this.key.configure(v[P.keyLowCut]!, v[P.keyHighCut]!);
  }

  process(left: Float32Array, right: Float32Array, frames: number, inputs?: Inputs): void {
    this.key.take(left, right, frames, inputs?.[0]);
    if (this.v[P.detector] === 1) this.level.readPower(this.key.left, this.key.right, frames);
    else this.level.readPeaks(this.key.left, this.key.right, frames);
    this.reduce(frames);
    this.apply(left, right, frames);
  }

  /** Works out the gain of each frame from its level. */
  private reduce(frames: number): void {
    const { attack, release, deepest, work, thresholds, slopes, knees } = this;
    const { db } = this.level;
    const looks = this.wait < this.latencyFrames;
    this.threshold.fill(thresholds, frames);
    this.slope.fill(slopes, frames);
    this.knee.fill(knees, frames);
    let { reduction } = this;
    let most = 0;
    for (let i = 0; i < frames; i++) {
      const now = staticReduction(db[i]!, thresholds[i]!, slopes[i]!, knees[i]!);
      const wanted = looks ? -deepest.next(-now) : now;
      reduction = wanted + (wanted < reduction ? attack : release) * (reduction - wanted);
      if (reduction > -1e-7) reduction = 0;
      if (reduction < most) most = reduction;
      work[i] = reduction;
    }
    this.reduction = reduction;
    this.most = most;
    wasm().loops.gains(work.byteOffset, frames);
  }

  /** Lets the gains meet the sound that they were worked out for. */
  private apply(left: Float32Array, right: Float32Array, frames: number): void {
    const { key, latencyFrames, work, makeups, mixes, listens } = this;
    this.makeup.fill(makeups, frames);
    this.mix.fill(mixes, frames);
    this.listen.fill(listens, frames);
    const { left: lefts, right: rights, keyLeft: keyLefts, keyRight: keyRights, gains, wait } = this;
    const mask = lefts.length - 1;
    let { write } = this;
    for (let i = 0; i < frames; i++) {
      const read = (write - latencyFrames) & mask;
      gains[write] = work[i]!;
      lefts[write] = left[i]!;
      rights[write] = right[i]!;
      keyLefts[write] = key.left[i]!;
      keyRights[write] = key.right[i]!;
      const gain = gains[(write - wait) & mask]! * makeups[i]!;
      const mix = mixes[i]!;
      const weight = 1 - mix + mix * gain;
      const listen = listens[i]!;
      const outLeft = lefts[read]! * weight;
      const outRight = rights[read]! * weight;
      left[i] = listen === 0 ? outLeft : between(outLeft, keyLefts[read]!, listen);
      right[i] = listen === 0 ? outRight : between(outRight, keyRights[read]!, listen);
      write = (write + 1) & mask;
    }
    this.write = write;
  }
}

export const createCompressor: KernelFactory = (context) => new CompressorKernel(context);
