import { meterSlotCount } from '../effects/meters';
import { effectById } from '../effects/registry';
import type { PlanInsert } from '../engine/plan';

/**
 * Layout of the shared memory in which the worklet writes playhead and meters: 64-bit floats, written by the worklet alone.
 * Behind the header come the strips in the order of the plan, left and right, then the meters of effects.
 */
export const METER = {
  positionFrame: 0,
  playing: 1,
  latencyFrames: 2,
  /** Seconds for which the effects outlast the last clip or note; Infinity until that is over. */
  tailSeconds: 3,
  /** Share of a core that the engine takes, 0 to 1. */
  load: 4,
  /** Plans applied so far, to match levels to strips. */
  plans: 6,
  blocks: 7,
  /** State of the output guard, of `GUARD_STATES`. */
  guard: 9,
  /** Drop-outs so far. */
  dropOuts: 10,
} as const;

export const GUARD_STATES = { off: 0, on: 1, tripped: 2 } as const;

export const METER_HEADER = 12;
export const MAXIMUM_STRIPS = 256;
export const MAXIMUM_INSERTS = 1024;
/** First slot of the values of modulated parameters, in the order of `movedParameters`. */
export const MODULATED_VALUES = METER_HEADER + 2 * MAXIMUM_STRIPS;
export const MAXIMUM_MODULATED = 512;
/** First slot of the clipped samples of each strip, in the order of the plan. */
export const CLIPPED_SAMPLES = MODULATED_VALUES + MAXIMUM_MODULATED;
/** First slot of the resets of each effect after invalid output, in the order of the plan. */
export const INSERT_FAULTS = CLIPPED_SAMPLES + MAXIMUM_STRIPS;
/** First slot of the share of each strip's power that is left in mono, in the order of the plan. */
export const MONO_SHARES = INSERT_FAULTS + MAXIMUM_INSERTS;
/** First slot of the meters of effects, in the order of the plan. */
export const EFFECT_METERS = MONO_SHARES + MAXIMUM_STRIPS;
export const MAXIMUM_EFFECT_METERS = 16384;
export const METER_SLOTS = EFFECT_METERS + MAXIMUM_EFFECT_METERS;

/** Meter slots of the effects of a plan, for as many as there is room for. */
export function effectMeterSlots(inserts: readonly PlanInsert[]): { readonly at: number; readonly count: number }[] {
  let at = EFFECT_METERS;
  return inserts.slice(0, MAXIMUM_INSERTS).flatMap(({ effect }) => {
    const count = meterSlotCount(effectById(effect));
    const place = { at, count };
    at += count;
    return at <= METER_SLOTS ? [place] : [];
  });
}
