import { LFO_SHAPES, LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import { exp } from '../../math/elementary';
import type { Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import type { Kernel, KernelContext, KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { autopanSpec } from './spec';

const P = parameterIndices(autopanSpec, ['rate', 'shape', 'depth', 'phase', 'smooth']);

/** Frames between two readings of the oscillator. */
const TICK = 8;

/**
 * Moves the power of each side along an oscillator: from 1 down to (1 - depth) squared, so that the depth is that of the
 * amplitude. With opposite phases the two powers always sum to the same, so that the movement keeps its loudness.
 */
class AutopanKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly oscillator: LowFrequencyOscillator;
  private readonly depth = new Ramp(0);
  private readonly phase = new Ramp(0);
  private factor = 0;
  /** Gains at the last tick, and their steps per frame. */
  private gainLeft = 1;
  private gainRight = 1;
  private stepLeft = 0;
  private stepRight = 0;
  private smoothLeft = 1;
  private smoothRight = 1;
  private offset = TICK;
  private readonly wasmKernels = wasm().kernels;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate } = context;
    this.oscillator = new LowFrequencyOscillator(sampleRate, 211);
    this.reset();
  }

  tailSeconds(): number {
    return 0;
  }

  locate(frame: number): void {
    this.oscillator.locate(frame, 0, this.isSounding);
    if (!this.isSounding) this.settle();
  }

  reset(): void {
    this.aim(0);
    this.isSounding = false;
    this.settle();
  }

  protected aim(frames: number): void {
    const { v } = this;
    this.oscillator.configure(LFO_SHAPES[v[P.shape]!]!, v[P.rate]!);
    this.depth.moveTo(v[P.depth]! / 100, frames);
    this.phase.moveTo(v[P.phase]! / 360, frames);
    this.factor = v[P.smooth]! === 0 ? 0 : exp((-1000 * TICK) / (v[P.smooth]! * this.sampleRate));
  }

  /** Goes to where the oscillator is at once. */
  private settle(): void {
    this.gainLeft = this.smoothLeft = this.amplitude(0);
    this.gainRight = this.smoothRight = this.amplitude(this.phase.value);
    this.stepLeft = this.stepRight = 0;
    this.offset = TICK;
  }

  private amplitude(phase: number): number {
    const u = 0.5 + 0.5 * this.oscillator.read(phase);
    const least = 1 - this.depth.value;
    return Math.sqrt(Math.max(0, 1 - (1 - least * least) * (1 - u)));
  }

  private tick(): void {
    this.offset = 0;
    this.isSounding = true;
    this.oscillator.advance(TICK);
    this.depth.pass(TICK);
    this.phase.pass(TICK);
    const left = this.amplitude(0);
    const right = this.amplitude(this.phase.value);
    this.smoothLeft = left + this.factor * (this.smoothLeft - left);
    this.smoothRight = right + this.factor * (this.smoothRight - right);
    this.gainLeft += this.stepLeft * TICK;
    this.gainRight += this.stepRight * TICK;
    this.stepLeft = (this.smoothLeft - this.gainLeft) / TICK;
    this.stepRight = (this.smoothRight - this.gainRight) / TICK;
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { wasmKernels } = this;
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      const count = Math.min(frames - start, TICK - this.offset);
      wasmKernels.scaleFloatsMoving(
        left.byteOffset + 4 * start,
        right.byteOffset + 4 * start,
        this.gainLeft,
        this.stepLeft,
        this.gainRight,
        this.stepRight,
        this.offset,
        count,
      );
      this.offset += count;
      start += count;
    }
  }
}

export const createAutopan: KernelFactory = (context) => new AutopanKernel(context);
