import { Convolver } from '../../dsp/convolver';
import { CrossfadedDelay } from '../../dsp/crossfadedDelay';
import { framesIn } from '../../dsp/impulseSpectra';
import { Ramp } from '../../dsp/ramp';
import { takeSides, type Sides } from '../../dsp/sides';
import { between } from '../../math/between';
import { dbToGain } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import type { Prepared } from '../prepare';
import { ToneStage } from '../toneStage';
import { convolutionSpec, EDITS, MOVES } from './spec';

const P = parameterIndices(convolutionSpec, MOVES, EDITS);

const TICK = 128;
const LONGEST_PRE_DELAY = 0.5;
const ARRIVAL_SECONDS = 0.04;
/** So much of what comes in is kept for impulses that follow shorter ones: most of them hear no more. */
const KEPT_SECONDS = 4;

/** Convolution with what `prepare.ts` has made of an impulse; until that is there the sound passes as it is. */
class ConvolutionKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly wasmKernels = wasm().kernels;
  private readonly convolver: Convolver;
  private readonly preDelay: CrossfadedDelay;
  private readonly tone: ToneStage;
  private readonly mix: EqualPowerMix;
  private readonly width = new Ramp(1);
  private readonly gain = new Ramp(1);
  /** True if the impulse is heard. */
  private readonly arrived = new Ramp(0);
  private readonly taken: Sides;
  private readonly wet: Sides;
  private readonly dryLeft: Floats;
  private readonly dryRight: Floats;
  private impulseSeconds = 0;
  private offset = TICK;

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate, values } = context;
    this.convolver = new Convolver(memory, sampleRate);
    this.convolver.remember(KEPT_SECONDS * sampleRate);
    this.preDelay = new CrossfadedDelay(memory, sampleRate, Math.ceil(LONGEST_PRE_DELAY * sampleRate));
    this.tone = new ToneStage(memory, sampleRate, ['lowShelf', 'bell', 'highShelf']);
    this.mix = new EqualPowerMix(memory, values[P.mix]!);
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.taken = [block(), block()];
    this.wet = [block(), block()];
    this.dryLeft = memory.floats(MAXIMUM_BLOCK);
    this.dryRight = memory.floats(MAXIMUM_BLOCK);
    this.reset();
  }

  tailSeconds(): number {
    return this.v[P.preDelay]! / 1000 + this.impulseSeconds + 0.05;
  }

  setResource(prepared: Prepared): void {
    this.convolver.take(prepared);
    this.impulseSeconds = framesIn(prepared) / this.sampleRate;
    if (!this.isSounding) this.arrived.moveTo(1, 0);
  }

  locate(): void {}

  reset(): void {
    this.aim(0);
    this.convolver.reset();
    this.preDelay.reset();
    this.tone.reset();
    this.arrived.moveTo(this.convolver.ready ? 1 : 0, 0);
    this.offset = TICK;
    this.isSounding = false;
  }

  protected aim(frames: number): void {
    const { v } = this;
    this.preDelay.aim((v[P.preDelay]! * this.sampleRate) / 1000);
    this.tone.aim(0, v[P.wetLow]!, v[P.wetLowFrequency]!, frames);
    this.tone.aim(1, v[P.wetMid]!, v[P.wetMidFrequency]!, frames);
    this.tone.aim(2, v[P.wetHigh]!, v[P.wetHighFrequency]!, frames);
    this.width.moveTo(v[P.width]! / 100, frames);
    this.gain.moveTo(dbToGain(v[P.gain]!), frames);
    this.mix.moveTo(v[P.mix]!, frames);
  }

  process(left: Floats, right: Floats, frames: number): void {
    this.isSounding = true;
    const { taken, wet, dryLeft, dryRight, convolver, arrived } = this;
    const [inLeft, inRight] = taken;
    const [wetLeft, wetRight] = wet;
    takeSides(taken, left, right, frames);
    const here = arrived.settled && arrived.value === 1;
    if (!here) {
      this.wasmKernels.copySides(dryLeft.byteOffset, dryRight.byteOffset, left.byteOffset, right.byteOffset, frames);
    }
    this.preDelay.process(inLeft, inRight, frames);
    convolver.process(inLeft, inRight, wetLeft, wetRight, frames);
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) {
        this.tone.tick(TICK);
        this.offset = 0;
      }
      const count = Math.min(frames - start, TICK - this.offset);
      this.tone.process(wetLeft, wetRight, count, start);
      this.offset += count;
      start += count;
    }
    this.widen(frames);
    this.mix.blend(left, right, wet, frames);
    if (here) return;
    if (convolver.ready && arrived.value === 0) arrived.moveTo(1, Math.round(ARRIVAL_SECONDS * this.sampleRate));
    for (let i = 0; i < frames; i++) {
      const share = smoothstep(arrived.next());
      left[i] = between(dryLeft[i]!, left[i]!, share);
      right[i] = between(dryRight[i]!, right[i]!, share);
    }
  }

  /** Takes the wet blocks to their gain and width. */
  private widen(frames: number): void {
    const { wet, gain, width } = this;
    const [wetLeft, wetRight] = wet;
    if (gain.settled && width.settled) {
      const [left, right] = [wetLeft.byteOffset, wetRight.byteOffset];
      this.wasmKernels.widen(left, right, left, right, gain.value, gain.value * width.value, frames);
      return;
    }
    for (let i = 0; i < frames; i++) {
      const middleGain = gain.next();
      const sideGain = middleGain * width.next();
      const middle = 0.5 * middleGain * (wetLeft[i]! + wetRight[i]!);
      const side = 0.5 * sideGain * (wetLeft[i]! - wetRight[i]!);
      wetLeft[i] = middle + side;
      wetRight[i] = middle - side;
    }
  }
}

export const createConvolution: KernelFactory = (context) => new ConvolutionKernel(context);
