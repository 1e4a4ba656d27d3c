import { measureRoom, type RoomMeasures } from '../dsp/decay';
import type { PlanInsert, Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderInSteps, tailOf } from '../engine/render';

/** A longer answer is not looked at: what it shows of its decay is what there is to be seen. */
const LONGEST_SECONDS = 16;
const SHORTEST_SECONDS = 0.4;

/**
 * Acoustic measures of a chain, from its impulse response in the engine.
 * @param inserts measured wet only, at a mix of 100 %
 * @param sounds those that its effects work with, by id
 */
export function* measureChain(
  inserts: readonly PlanInsert[],
  sampleRate: number,
  sounds: ReadonlyMap<string, Samples>,
): Generator<number, RoomMeasures> {
  const sound = new Float32Array(1);
  sound[0] = 1;
  const { plan, samples } = chainPlan(inserts, sampleRate, { left: sound, right: sound }, sounds);
  const seconds = Math.min(LONGEST_SECONDS, Math.max(SHORTEST_SECONDS, tailOf(plan, samples)));
  const toFrame = Math.ceil(seconds * sampleRate);
  const { left, right } = yield* renderInSteps(plan, { samples }, { fromFrame: 0, toFrame, tailSeconds: 0 });
  return measureRoom([left, right], sampleRate);
}
