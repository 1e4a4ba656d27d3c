import { LookaheadLimiter } from '../../dsp/lookaheadLimiter';
import { Ramp } from '../../dsp/ramp';
import { putSides, takeSides, type Sides } from '../../dsp/sides';
import { dbToGain } from '../../math/elementary';
import type { Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { limiterSpec } from './spec';

const P = parameterIndices(limiterSpec, ['gain', 'ceiling', 'release', 'lookahead']);

const MAXIMUM_LOOKAHEAD_MS = 10;

/** A gain into the look-ahead limiter. */
class LimiterKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames: number;
  private readonly gain = new Ramp(1);
  private readonly limiter: LookaheadLimiter;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly work: Sides;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, memory } = context;
    this.work = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.limiter = new LookaheadLimiter(memory, sampleRate, MAXIMUM_LOOKAHEAD_MS);
    this.latencyFrames = this.limiter.latencyFrames;
    this.reset();
  }

  readMeters(out: Float64Array): void {
    out[0] = this.limiter.reductionDb;
  }

  tailSeconds(): number {
    return 0;
  }

  /** Once it has let go. */
  get canSleep(): boolean {
    return this.limiter.idle;
  }

  locate(): void {}

  reset(): void {
    this.aim(0);
    this.limiter.reset();
  }

  protected aim(frames: number): void {
    const { v } = this;
    this.gain.moveTo(dbToGain(v[P.gain]!), frames);
    this.limiter.configure(v[P.ceiling]!, v[P.release]!, v[P.lookahead]!, frames);
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { gain, gains, work } = this;
    takeSides(work, left, right, frames);
    if (!gain.settled || gain.value !== 1) {
      gain.fill(gains, frames);
      for (const side of work) for (let i = 0; i < frames; i++) side[i] = side[i]! * gains[i]!;
    }
    this.limiter.process(work[0], work[1], frames);
    putSides(left, right, work, frames);
  }
}

export const createLimiter: KernelFactory = (context) => new LimiterKernel(context);
