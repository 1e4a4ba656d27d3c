import { LatencyCompensator } from '../../dsp/latencyCompensator';
import { LookaheadLimiter } from '../../dsp/lookaheadLimiter';
import { Ramp } from '../../dsp/ramp';
import { putSides, takeSides, type Sides } from '../../dsp/sides';
import { between } from '../../math/between';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';

const LOOKAHEAD_MS = 1.5;
const RELEASE_MS = 120;

/**
 * Limits what leaves the effect, late by the limiter's latency, while it is on; the dry sound alone passes as it is. The
 * limiter is let in once it has filled.
 */
export class Safety {
  readonly latencyFrames: number;
  private readonly limiter: LookaheadLimiter;
  /** The unlimited sound, with the limiter's latency. */
  private readonly late: LatencyCompensator;
  private readonly lateLeft: Floats;
  private readonly lateRight: Floats;
  private readonly safe: Sides;
  private readonly limited = new Ramp(0);
  /** 0 while only the dry sound leaves, which is not limited. */
  private readonly touched = new Ramp(1);
  private on = false;
  /** Frames until the limiter has filled. */
  private filling = 0;

  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly rampFrames: number,
  ) {
    this.limiter = new LookaheadLimiter(memory, sampleRate, LOOKAHEAD_MS);
    this.latencyFrames = this.limiter.latencyFrames;
    this.late = new LatencyCompensator(memory);
    this.late.setDelay(this.latencyFrames, true);
    this.lateLeft = memory.floats(MAXIMUM_BLOCK);
    this.lateRight = memory.floats(MAXIMUM_BLOCK);
    this.safe = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
  }

  /** Level it takes away, in dB, 0 and down. */
  get reductionDb(): number {
    return this.on ? this.limiter.reductionDb : 0;
  }

  setCeiling(ceilingDb: number, frames: number): void {
    this.limiter.configure(ceilingDb, RELEASE_MS, LOOKAHEAD_MS, frames);
  }

  /** @param wet whether anything but the dry sound leaves the effect */
  setWet(wet: boolean, frames: number): void {
    this.touched.moveTo(wet ? 1 : 0, frames);
  }

  switch(on: boolean): void {
    this.on = on;
    this.filling = 0;
    if (!on) {
      this.limited.moveTo(0, this.rampFrames);
    } else if (this.limited.idle) {
      this.limiter.reset();
      this.filling = this.latencyFrames;
    } else {
      this.limited.moveTo(1, this.rampFrames);
    }
  }

  reset(on: boolean, wet: boolean): void {
    this.on = on;
    this.limited.moveTo(on ? 1 : 0, 0);
    this.touched.moveTo(wet ? 1 : 0, 0);
    this.filling = 0;
    this.limiter.reset();
    this.late.clear();
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { safe, limited, touched, late, lateLeft, lateRight } = this;
    if (!this.on && limited.idle) return;
    late.process(left, right, true, lateLeft, lateRight, frames);
    takeSides(safe, left, right, frames);
    this.limiter.process(safe[0], safe[1], frames);
    if (limited.settled && limited.value === 1 && touched.settled && touched.value === 1) {
      putSides(left, right, safe, frames);
      return;
    }
    for (let i = 0; i < frames; i++) {
      if (this.filling > 0 && --this.filling === 0) limited.moveTo(1, this.rampFrames);
      const weight = smoothstep(limited.next());
      const much = touched.next();
      left[i] = between(left[i]!, between(lateLeft[i]!, safe[0][i]!, much), weight);
      right[i] = between(right[i]!, between(lateRight[i]!, safe[1][i]!, much), weight);
    }
  }
}
