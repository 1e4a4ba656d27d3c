import { KERNELS } from '../effects/kernels';
import type { PlanInsert } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderPlan } from '../engine/render';

/** The impulse response of a chain, reduced for drawing. Levels are factors of the impulse's own. */
export interface Echogram {
  readonly seconds: number;
  /** Largest magnitude within each slot of equal length, left and right. */
  readonly left: Float32Array;
  readonly right: Float32Array;
  /** When those largest magnitudes come, in seconds after the impulse, to the frame. */
  readonly leftSeconds: Float64Array;
  readonly rightSeconds: Float64Array;
  /** What leaves at the very moment of the impulse: the dry sound. */
  readonly dryLeft: number;
  readonly dryRight: number;
}

/** Seconds after which a chain, as its effects state, is silent. */
function tailOf(inserts: readonly PlanInsert[], sampleRate: number): number {
  return inserts.reduce((sum, { effect, values }) => sum + KERNELS[effect]!(sampleRate, values).tailSeconds(), 0);
}

/**
 * Sends a unit impulse through a chain in the engine itself and reduces what comes out to `slots` peaks over `seconds`; what follows
 * the tail that the effects state is not rendered and counts as silence.
 * The first slot holds only what is later than the dry sound.
 * @param stop asked now and then; true gives up and yields null
 */
export function computeEchogram(
  inserts: readonly PlanInsert[],
  sampleRate: number,
  seconds: number,
  slots: number,
  stop: () => boolean = () => false,
): Echogram | null {
  const length = Math.round(seconds * sampleRate);
  const needed = Math.min(length, Math.ceil(tailOf(inserts, sampleRate) * sampleRate) + 1);
  const sound = new Float32Array(1);
  sound[0] = 1;
  const { plan, samples } = chainPlan(inserts, sampleRate, { left: sound, right: sound });
  const out = renderPlan(plan, samples, { fromFrame: 0, toFrame: needed, tailSeconds: 0 }, () => !stop());
  if (!out) return null;
  const reduce = (channel: Float32Array) => {
    const peaks = new Float32Array(slots);
    const times = new Float64Array(slots);
    for (let i = 1; i < needed; i++) {
      const slot = Math.floor((i * slots) / length);
      const magnitude = Math.abs(channel[i]!);
      if (magnitude <= peaks[slot]!) continue;
      peaks[slot] = magnitude;
      times[slot] = i / sampleRate;
    }
    return { peaks, times };
  };
  const left = reduce(out.left);
  const right = reduce(out.right);
  return {
    seconds,
    left: left.peaks,
    right: right.peaks,
    leftSeconds: left.times,
    rightSeconds: right.times,
    dryLeft: Math.abs(out.left[0]!),
    dryRight: Math.abs(out.right[0]!),
  };
}
