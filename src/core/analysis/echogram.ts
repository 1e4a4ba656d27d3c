import type { Plan, PlanInsert } from '../engine/plan';
import { renderPlan } from '../engine/render';

/** The impulse response of a chain, reduced for drawing. Levels are factors of the impulse's own. */
export interface Echogram {
  readonly seconds: number;
  /** Largest magnitude within each slot of equal length, left and right. */
  readonly left: Float32Array;
  readonly right: Float32Array;
  /** What leaves at the very moment of the impulse: the dry sound. */
  readonly dryLeft: number;
  readonly dryRight: number;
}

const IMPULSE = 'impulse';

/**
 * Sends a unit impulse through a chain in the engine itself and reduces what comes out to `slots` peaks over `seconds`.
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
  const sound = new Float32Array(1);
  sound[0] = 1;
  const strip = { gain: 1, pan: 0, audible: true };
  const clip = { id: IMPULSE, assetId: IMPULSE, startFrame: 0, offsetFrame: 0, lengthFrames: 1, gain: 1, fadeInFrames: 0, fadeOutFrames: 0 };
  const plan: Plan = {
    sampleRate,
    framesPerBeat: sampleRate,
    endFrame: length,
    loop: null,
    tracks: [{ ...strip, id: 'chain', inserts, clips: [clip] }],
    main: { ...strip, id: 'main', inserts: [] },
  };
  const out = renderPlan(plan, new Map([[IMPULSE, { left: sound, right: sound }]]), { fromFrame: 0, toFrame: length, tailSeconds: 0 }, () => !stop());
  if (!out) return null;
  const reduce = (channel: Float32Array) => {
    const peaks = new Float32Array(slots);
    for (let i = 1; i < length; i++) {
      const slot = Math.floor((i * slots) / length);
      peaks[slot] = Math.max(peaks[slot]!, Math.abs(channel[i]!));
    }
    return peaks;
  };
  return { seconds, left: reduce(out.left), right: reduce(out.right), dryLeft: Math.abs(out.left[0]!), dryRight: Math.abs(out.right[0]!) };
}
