import { bandQ } from '../../dsp/bandWidth';
import { FilterPair } from '../../dsp/filterPair';
import { Ramp } from '../../dsp/ramp';
import { RampBlock } from '../../dsp/rampBlock';
import type { Sides } from '../../dsp/sides';
import { between } from '../../math/between';
import { exp, log, tan } from '../../math/elementary';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { LevelKey } from '../levelKey';
import { deesserSpec } from './spec';

const P = parameterIndices(deesserSpec, ['frequency', 'width', 'listen', 'threshold', 'amount']);

const ATTACK_SECONDS = 0.001;
const RELEASE_SECONDS = 0.06;
/** A level held this long reads steadily for all esses. */
const HOLD_SECONDS = 0.0005;
const TICK = 16;

/**
 * Cuts like a bell: takes part of a band-pass of unit gain away from the sound, on the centre by exactly the reduction,
 * nothing far away. The band-pass is the wider the deeper the cut, by the root of its gain, so that the cut is as wide
 * half way down whatever its depth (bandwidth of a bell after Bristow-Johnson, "Cookbook formulae for audio equalizer
 * biquad filter coefficients", 2005). The reduction is what the band is over the threshold, up to the amount, with a
 * fast attack and a release of 60 ms. Both channels share it.
 */
class DeesserKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly filter: FilterPair;
  private readonly level: LevelKey;
  private readonly logFrequency = new Ramp(0);
  private readonly octaves = new Ramp(1);
  private readonly threshold: RampBlock;
  private readonly amount: RampBlock;
  private readonly listen = new Ramp(0);
  private readonly attack: number;
  private readonly release: number;
  /** The detector's band, and the band that is reduced. */
  private readonly band: Sides;
  private readonly cut: Sides;
  /** State of the low cut: both integrators by pairs, its warped frequency and the Q of its narrowest band. */
  private readonly states: Doubles;
  private cutG = 0;
  private cutQ = 1;
  /** The reduction now and the deepest of the last stretch, in dB. */
  private readonly reduction: Doubles;
  private readonly wasmKernels = wasm().kernels;
  private most = 0;
  private sinceTick = 0;
  /** The band moved since its filter was tuned last. */
  private moved = false;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, memory } = context;
    this.filter = new FilterPair(memory, sampleRate);
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.band = [block(), block()];
    this.cut = [block(), block()];
    this.states = memory.doubles(4);
    this.reduction = memory.doubles(2);
    this.threshold = new RampBlock(memory, 0);
    this.amount = new RampBlock(memory, 0);
    this.level = new LevelKey(memory, sampleRate, HOLD_SECONDS);
    this.attack = exp(-1 / (ATTACK_SECONDS * sampleRate));
    this.release = exp(-1 / (RELEASE_SECONDS * sampleRate));
    this.reset();
  }

  readMeters(out: Float64Array): void {
    out[0] = this.most;
  }

  tailSeconds(): number {
    return 0.02;
  }

  /** Once it has let go. */
  get canSleep(): boolean {
    return this.reduction[0] === 0;
  }

  locate(): void {}

  reset(): void {
    this.filter.reset();
    this.states.fill(0);
    this.level.reset();
    this.reduction.fill(0);
    this.sinceTick = 0;
    this.moved = false;
    this.aim(0);
    this.tune();
  }

  protected aim(frames: number): void {
    const { v } = this;
    this.logFrequency.moveTo(log(v[P.frequency]!), frames);
    this.octaves.moveTo(v[P.width]!, frames);
    this.threshold.moveTo(v[P.threshold]!, frames);
    this.amount.moveTo(v[P.amount]!, frames);
    this.listen.moveTo(v[P.listen]!, frames);
  }

  private tune(): void {
    const hz = exp(this.logFrequency.value);
    this.cutQ = bandQ(hz, this.octaves.value, this.sampleRate);
    this.filter.configureBoth('bandPass', hz, this.cutQ);
    this.cutG = tan((Math.PI * Math.min(hz, 0.49 * this.sampleRate)) / this.sampleRate);
  }

  process(left: Floats, right: Floats, frames: number): void {
    this.most = 0;
    for (let start = 0; start < frames;) {
      if (!this.logFrequency.settled || !this.octaves.settled) this.moved = true;
      const count = this.moved ? Math.min(frames - start, TICK - this.sinceTick) : frames - start;
      this.stretch(left, right, start, count);
      start += count;
      this.sinceTick = (this.sinceTick + count) % TICK;
      if (!this.moved || this.sinceTick > 0) continue;
      this.tune();
      this.moved = false;
    }
  }

  private stretch(left: Floats, right: Floats, start: number, count: number): void {
    const { band, cut, level, wasmKernels, listen } = this;
    const partLeft = left.byteOffset + 4 * start;
    const partRight = right.byteOffset + 4 * start;
    wasmKernels.takeSides(cut[0].byteOffset, cut[1].byteOffset, partLeft, partRight, 1, count);
    wasmKernels.takeSides(band[0].byteOffset, band[1].byteOffset, partLeft, partRight, 1, count);
    this.logFrequency.pass(count);
    this.octaves.pass(count);
    this.filter.process(band[0], band[1], count);
    level.readPeaks(band[0], band[1], count);
    const gains = level.db.byteOffset;
    wasmKernels.boundedReductions(gains, this.threshold.take(count), this.amount.take(count), count);
    wasmKernels.followReductions(this.reduction.byteOffset, gains, this.attack, this.release, count);
    this.most = Math.min(this.most, this.reduction[1]!);
    wasmKernels.gains(gains, count);
    wasmKernels.cutBell(
      this.states.byteOffset,
      cut[0].byteOffset,
      cut[1].byteOffset,
      gains,
      this.cutG,
      1 / this.cutQ,
      count,
    );
    if (listen.idle) {
      wasmKernels.putSides(partLeft, partRight, cut[0].byteOffset, cut[1].byteOffset, 1, count);
      return;
    }
    for (let i = 0; i < count; i++) {
      const heard = listen.next();
      left[start + i] = between(cut[0][i]!, band[0][i]!, heard);
      right[start + i] = between(cut[1][i]!, band[1][i]!, heard);
    }
  }
}

export const createDeesser: KernelFactory = (context) => new DeesserKernel(context);
