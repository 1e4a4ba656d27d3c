import { meterSlotCount } from '../effects/meters';
import { effectById } from '../effects/registry';
import type { PlanInsert } from '../engine/plan';

/**
 * Layout of the shared memory through which the worklet tells playhead and levels: 64-bit floats, written by the
 * worklet alone. Strips follow the header in the order of the plan, left and right, then what effects tell.
 */
export const METER = {
  positionFrame: 0,
  playing: 1,
  latencyFrames: 2,
  /** Part of a core the engine takes, 0 to 1. */
  load: 4,
  /** Number of plans taken up, so that levels can be matched to strips. */
  plans: 6,
  blocks: 7,
  /** Of the guard of the output: `GUARD_STATES`. */
  guard: 9,
  /** Times the sound broke off because the audio thread came too late. */
  dropOuts: 10,
} as const;

export const GUARD_STATES = { off: 0, on: 1, tripped: 2 } as const;

export const METER_HEADER = 12;
export const MAXIMUM_STRIPS = 256;
export const MAXIMUM_INSERTS = 1024;
/** Where the values of modulated parameters are told, in the order of `movedParameters`. */
export const MODULATED_VALUES = METER_HEADER + 2 * MAXIMUM_STRIPS;
export const MAXIMUM_MODULATED = 512;
/** Samples of each strip beyond full scale, in the order of the plan. */
export const CLIPPED_SAMPLES = MODULATED_VALUES + MAXIMUM_MODULATED;
/** How often each effect put out what is no number and was reset, in the order of the plan. */
export const INSERT_FAULTS = CLIPPED_SAMPLES + MAXIMUM_STRIPS;
/** Part of the power of each strip that is left in mono, in the order of the plan. */
export const MONO_SHARES = INSERT_FAULTS + MAXIMUM_INSERTS;
/** What effects tell of themselves, one after the other in the order of the plan. */
export const EFFECT_METERS = MONO_SHARES + MAXIMUM_STRIPS;
export const MAXIMUM_EFFECT_METERS = 16384;
export const METER_SLOTS = EFFECT_METERS + MAXIMUM_EFFECT_METERS;

/** Where each of the first effects of a plan tells its readings, for as many as there is room for. */
export function effectMeterSlots(inserts: readonly PlanInsert[]): { readonly at: number; readonly count: number }[] {
  let at = EFFECT_METERS;
  return inserts.slice(0, MAXIMUM_INSERTS).flatMap(({ effect }) => {
    const count = meterSlotCount(effectById(effect));
    const place = { at, count };
    at += count;
    return at <= METER_SLOTS ? [place] : [];
  });
}
