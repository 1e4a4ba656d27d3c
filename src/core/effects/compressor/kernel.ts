import { LatencyCompensator } from '../../dsp/latencyCompensator';
import { Ramp } from '../../dsp/ramp';
import { RampBlock } from '../../dsp/rampBlock';
import { crossSides, putSides } from '../../dsp/sides';
import { SlidingMaxima } from '../../dsp/slidingMaxima';
import { dbToGain, exp } from '../../math/elementary';
import { powerOfTwoFrom } from '../../math/powerOfTwo';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { KeyInput } from '../keyInput';
import { MAXIMUM_BLOCK, type Inputs, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { LevelKey } from '../levelKey';
import { compressorSpec, INFINITE_RATIO, LONGEST_LOOKAHEAD_MS } from './spec';

const P = parameterIndices(compressorSpec, [
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

/** Part of the release for which a peak is held to keep the level of tones steady. */
const HOLD_OF_RELEASE = 0.05;

/**
 * Gain of a level in dB, 0 or less: straight lines of slope 1 and 1/ratio joined by a parabola as wide as the
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
class CompressorKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames: number;
  private readonly key: KeyInput;
  private readonly level: LevelKey;
  private readonly deepest: SlidingMaxima;
  /** Sound and key wait for as long as the longest look-ahead, the gains for what is left of it. */
  private readonly sound: LatencyCompensator;
  private readonly keys: LatencyCompensator;
  private readonly waiting: Floats;
  private at = 0;
  private wait = 0;
  /** Reductions of the block in dB, then its gains. */
  private readonly work: Doubles;
  private readonly gains: Floats;
  private readonly heard: readonly [Floats, Floats];
  private readonly threshold: RampBlock;
  private readonly slope: RampBlock;
  private readonly knee: RampBlock;
  private readonly makeup: RampBlock;
  private readonly mix: RampBlock;
  private readonly listen = new Ramp(0);
  private attack = 0;
  private release = 0;
  /** The reduction now and the deepest of the last block, in dB. */
  private readonly reduction: Doubles;
  private readonly wasmKernels = wasm().kernels;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, memory } = context;
    this.latencyFrames = Math.round((LONGEST_LOOKAHEAD_MS / 1000) * sampleRate);
    this.key = new KeyInput(memory, sampleRate);
    this.level = new LevelKey(memory, sampleRate);
    this.deepest = new SlidingMaxima(memory, this.latencyFrames + 1);
    this.sound = new LatencyCompensator(memory);
    this.keys = new LatencyCompensator(memory);
    for (const one of [this.sound, this.keys]) one.setDelay(this.latencyFrames, true);
    this.waiting = memory.floats(powerOfTwoFrom(this.latencyFrames + MAXIMUM_BLOCK));
    this.work = memory.doubles(MAXIMUM_BLOCK);
    this.gains = memory.floats(MAXIMUM_BLOCK);
    this.heard = [memory.floats(MAXIMUM_BLOCK), memory.floats(MAXIMUM_BLOCK)];
    this.reduction = memory.doubles(2);
    const ramp = (value: number) => new RampBlock(memory, value);
    this.threshold = ramp(0);
    this.slope = ramp(0);
    this.knee = ramp(0);
    this.makeup = ramp(1);
    this.mix = ramp(1);
    this.reset();
  }

  readMeters(out: Float64Array): void {
    out[0] = this.reduction[1]!;
  }

  tailSeconds(): number {
    return 0;
  }

  /** Once it has let go. */
  get canSleep(): boolean {
    return this.reduction[0] === 0;
  }

  locate(): void {}

  reset(): void {
    this.key.reset();
    this.level.reset();
    this.sound.clear();
    this.keys.clear();
    this.waiting.fill(1);
    this.deepest.reset();
    this.reduction.fill(0);
    this.aim(0);
  }

  protected aim(frames: number): void {
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
    // A hold from before the look-ahead no longer counts.
    if (lookahead > 0 && this.wait === this.latencyFrames) this.deepest.reset();
    this.wait = this.latencyFrames - lookahead;
    this.deepest.setWindow(lookahead + 1);
    this.level.setHold((v[P.release]! / 1000) * HOLD_OF_RELEASE);
    this.key.configure(v[P.keyLowCut]!, v[P.keyHighCut]!);
  }

  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void {
    const { key, level, listen } = this;
    const [keyLeft, keyRight] = key.sides;
    key.take(left, right, frames, inputs?.[0]);
    if (this.v[P.detector] === 1) level.readPower(keyLeft, keyRight, frames);
    else level.readPeaks(keyLeft, keyRight, frames);
    this.reduce(frames);
    this.apply(left, right, frames);
    if (!listen.idle) crossSides(left, right, this.heard, listen, frames);
  }

  /** Works out the gain of each frame from its level. */
  private reduce(frames: number): void {
    const { wasmKernels, work, level, threshold, slope, knee, deepest } = this;
    const at = work.byteOffset;
    wasmKernels.staticReductions(
      level.db.byteOffset,
      threshold.take(frames),
      slope.take(frames),
      knee.take(frames),
      at,
      frames,
    );
    if (this.wait < this.latencyFrames) deepest.leastOf(work, frames);
    wasmKernels.followReductions(this.reduction.byteOffset, at, this.attack, this.release, frames);
    wasmKernels.gains(at, frames);
  }

  /** Lets the gains meet the sound that they were worked out for. */
  private apply(left: Floats, right: Floats, frames: number): void {
    const { wasmKernels, work, gains, waiting, at, wait, heard, key } = this;
    wasmKernels.toFloats(gains.byteOffset, work.byteOffset, frames);
    wasmKernels.holdFloats(waiting.byteOffset, waiting.length, at, wait, gains.byteOffset, gains.byteOffset, frames);
    this.at = (at + frames) & (waiting.length - 1);
    putSides(heard[0], heard[1], key.sides, frames);
    this.keys.process(heard[0], heard[1], true, heard[0], heard[1], frames);
    this.sound.process(left, right, true, left, right, frames);
    wasmKernels.weighSides(
      left.byteOffset,
      right.byteOffset,
      gains.byteOffset,
      this.makeup.take(frames),
      this.mix.take(frames),
      frames,
    );
  }
}

export const createCompressor: KernelFactory = (context) => new CompressorKernel(context);
