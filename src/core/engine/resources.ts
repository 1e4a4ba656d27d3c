import type { Prepared } from '../effects/prepare';
import { PREPARERS } from '../effects/preparers.generated';
import type { PlanInsert, Samples } from './plan';

/**
 * Prepares what an effect of a plan works with; takes long and is no work for the audio thread.
 * @param sound its sound at the sample rate; null for one that ships with the effect
 * @throws KinetikonError as the effect's preparer does
 */
export function prepare(insert: PlanInsert, sampleRate: number, sound: Samples | null): Prepared {
  const { effect, values, settings = {} } = insert;
  return PREPARERS[effect]!({ sampleRate, values, settings, sound });
}
