import { Ramp } from '../../dsp/ramp';
import { dbToGain, exp } from '../../math/elementary';
import { settled } from '../../math/settled';
import { smoothstep } from '../../math/smoothstep';

/** The level that opens it falls by 63 % in this time, so that a tone holds it steadily open. */
const FALL_SECONDS = 0.01;

/**
 * A shape drawn over a tail: it opens while sound above a threshold comes in, stays open for a while after that, and
 * closes; a slow opening swells, a fast closing is a gate.
 */
export class TailEnvelope {
  private readonly amount = new Ramp(0);
  private readonly fall: number;
  private threshold = 0;
  private attackStep = 0;
  private releaseStep = 0;
  private holdFrames = 0;
  private level = 0;
  private open = 0;
  private held = 0;

  constructor(private readonly sampleRate: number) {
    this.fall = exp(-1 / (FALL_SECONDS * sampleRate));
  }

  configure(
    amount: number,
    thresholdDb: number,
    attackMs: number,
    holdMs: number,
    releaseMs: number,
    frames: number,
  ): void {
    this.amount.moveTo(amount, frames);
    this.threshold = dbToGain(thresholdDb);
    this.attackStep = 1000 / (attackMs * this.sampleRate);
    this.releaseStep = 1000 / (releaseMs * this.sampleRate);
    this.holdFrames = Math.round((holdMs * this.sampleRate) / 1000);
  }

  reset(): void {
    this.level = 0;
    this.open = 0;
    this.held = 0;
  }

  /** Shapes both blocks by what the other two do. */
  process(
    left: Float64Array,
    right: Float64Array,
    keyLeft: Float32Array,
    keyRight: Float32Array,
    frames: number,
  ): void {
    const { amount, fall, threshold, attackStep, releaseStep, holdFrames } = this;
    if (amount.idle) return;
    let { level, open, held } = this;
    for (let i = 0; i < frames; i++) {
      const l = keyLeft[i]!;
      const r = keyRight[i]!;
      const loud = Math.max(l < 0 ? -l : l, r < 0 ? -r : r);
      level = loud > level * fall ? loud : settled(level * fall);
      if (level >= threshold) {
        held = holdFrames;
        open = Math.min(1, open + attackStep);
      } else if (held > 0) {
        held--;
        open = Math.min(1, open + attackStep);
      } else open = Math.max(0, open - releaseStep);
      const gain = 1 - amount.next() * (1 - smoothstep(open));
      left[i] = left[i]! * gain;
      right[i] = right[i]! * gain;
    }
    this.level = level;
    this.open = open;
    this.held = held;
  }
}
