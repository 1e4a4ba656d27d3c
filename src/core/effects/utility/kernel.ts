import { LatencyCompensator } from '../../dsp/latencyCompensator';
import { FilterPair } from '../../dsp/filterPair';
import { Ramp } from '../../dsp/ramp';
import { crossSides, takeSides, type Sides } from '../../dsp/sides';
import { dbToGain } from '../../math/elementary';
import type { Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { utilitySpec } from './spec';

const P = parameterIndices(utilitySpec, [
  'gain',
  'polarityLeft',
  'polarityRight',
  'swap',
  'mono',
  'delaySamples',
  'lowCut',
]);

const MAXIMUM_DELAY = 4800;
const LOWEST_CUT = 10;

/**
 * Level, polarity, side and mono as one ramped two-by-two matrix, then a delay in whole frames (changed by a short
 * crossfade) and a low cut (faded in and out against the uncut sound).
 */
class UtilityKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly matrix = [new Ramp(1), new Ramp(0), new Ramp(0), new Ramp(1)] as const;
  private readonly delay: LatencyCompensator;
  private readonly lowCut: FilterPair;
  private readonly cutAmount = new Ramp(0);
  private readonly cutoff: Ramp;
  private readonly low: Sides;
  /** Room for a frame by itself. */
  private readonly frame: Sides;
  private readonly wasmKernels = wasm().kernels;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, values, memory } = context;
    this.delay = new LatencyCompensator(memory, this.rampFrames);
    this.delay.setDelay(MAXIMUM_DELAY, true);
    this.lowCut = new FilterPair(memory, sampleRate);
    this.low = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.frame = [memory.doubles(1), memory.doubles(1)];
    this.cutoff = new Ramp(values[P.lowCut]!);
    this.aim(0);
  }

  tailSeconds(): number {
    return this.v[P.delaySamples]! / this.sampleRate + (this.v[P.lowCut]! > LOWEST_CUT ? 0.1 : 0);
  }

  locate(): void {}

  reset(): void {
    this.delay.clear();
    this.lowCut.reset();
    this.aim(0);
  }

  protected aim(frames: number): void {
    const { v } = this;
    const gain = v[P.gain]! <= -100 ? 0 : dbToGain(v[P.gain]!);
    const left = v[P.polarityLeft]! ? -gain : gain;
    const right = v[P.polarityRight]! ? -gain : gain;
    const [ll, lr, rl, rr] = v[P.mono]!
      ? [left / 2, right / 2, left / 2, right / 2]
      : v[P.swap]!
        ? [0, right, left, 0]
        : [left, 0, 0, right];
    this.matrix[0].moveTo(ll, frames);
    this.matrix[1].moveTo(lr, frames);
    this.matrix[2].moveTo(rl, frames);
    this.matrix[3].moveTo(rr, frames);
    this.cutAmount.moveTo(v[P.lowCut]! > LOWEST_CUT ? 1 : 0, frames);
    this.cutoff.moveTo(v[P.lowCut]!, frames);
    this.delay.setDelay(Math.round(v[P.delaySamples]!), frames === 0);
    this.tune();
  }

  private tune(): void {
    this.lowCut.configureBoth('highPass', this.cutoff.value, Math.SQRT1_2);
  }

  process(left: Floats, right: Floats, frames: number): void {
    this.turn(left, right, frames);
    this.delay.process(left, right, true, left, right, frames);
    if (this.cutAmount.idle && this.cutoff.settled) return;
    takeSides(this.low, left, right, frames);
    this.filter(this.low, frames);
    crossSides(left, right, this.low, this.cutAmount, frames);
  }

  /** Sends both sides through the matrix. */
  private turn(left: Floats, right: Floats, frames: number): void {
    const [ll, lr, rl, rr] = this.matrix;
    if (ll.settled && lr.idle && rl.idle && rr.settled) {
      if (ll.value === 1 && rr.value === 1) return;
      this.wasmKernels.scaleFloats(left.byteOffset, right.byteOffset, ll.value, rr.value, frames);
      return;
    }
    for (let i = 0; i < frames; i++) {
      const l = left[i]!;
      const r = right[i]!;
      left[i] = l * ll.next() + r * lr.next();
      right[i] = l * rl.next() + r * rr.next();
    }
  }

  /** Cuts lows; a cutoff that moves is taken up at every frame. */
  private filter([left, right]: Sides, frames: number): void {
    const { cutoff, lowCut } = this;
    if (cutoff.settled) {
      lowCut.process(left, right, frames);
      return;
    }
    const [one, other] = this.frame;
    for (let i = 0; i < frames; i++) {
      cutoff.next();
      this.tune();
      one[0] = left[i]!;
      other[0] = right[i]!;
      lowCut.process(one, other, 1);
      left[i] = one[0]!;
      right[i] = other[0]!;
    }
  }
}

export const createUtility: KernelFactory = (context) => new UtilityKernel(context);
