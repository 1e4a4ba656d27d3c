import { LookaheadLimiter } from '../../dsp/lookaheadLimiter';
import { Ramp } from '../../dsp/ramp';
import { dbToGain } from '../../math/elementary';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { placesOf } from '../places';
import { limiterSpec } from './spec';

const P = placesOf(limiterSpec, ['gain', 'ceiling', 'release', 'lookahead']);

const MAXIMUM_LOOKAHEAD_MS = 10;
const RAMP_SECONDS = 0.02;

/** A gain into the look-ahead limiter. */
class LimiterKernel implements Kernel {
  readonly latencyFrames: number;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly gain = new Ramp(1);
  private readonly limiter: LookaheadLimiter;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly workLeft = new Float64Array(MAXIMUM_BLOCK);
  private readonly workRight = new Float64Array(MAXIMUM_BLOCK);

  constructor({ sampleRate, values }: KernelContext) {
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.limiter = new LookaheadLimiter(sampleRate, MAXIMUM_LOOKAHEAD_MS);
    this.latencyFrames = this.limiter.latencyFrames;
    this.reset();
  }

  tell(out: Float64Array): void {
    out[0] = this.limiter.reductionDb;
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
    this.aim(0);
    this.limiter.reset();
  }

  private aim(frames: number): void {
    const { v } = this;
    this.gain.moveTo(dbToGain(v[P.gain]!), frames);
    this.limiter.configure(v[P.ceiling]!, v[P.release]!, v[P.lookahead]!, frames);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const { gains, workLeft, workRight } = this;
    this.gain.fill(gains, frames);
    for (let i = 0; i < frames; i++) {
      workLeft[i] = left[i]! * gains[i]!;
      workRight[i] = right[i]! * gains[i]!;
    }
    this.limiter.process(workLeft, workRight, frames);
    for (let i = 0; i < frames; i++) {
      left[i] = workLeft[i]!;
      right[i] = workRight[i]!;
    }
  }
}

export const createLimiter: KernelFactory = (context) => new LimiterKernel(context);
