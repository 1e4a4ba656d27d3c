import { toldBy } from '../effects/readings';
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
export const METER_MOVED = METER_HEADER + 2 * MAXIMUM_STRIPS;
export const MAXIMUM_MOVED = 512;
/** Samples of each strip beyond full scale, in the order of the plan. */
export const METER_OVERS = METER_MOVED + MAXIMUM_MOVED;
/** How often each effect put out what is no number and was reset, in the order of the plan. */
export const METER_FAULTS = METER_OVERS + MAXIMUM_STRIPS;
/** Part of the power of each strip that is left in mono, in the order of the plan. */
export const METER_MONO = METER_FAULTS + MAXIMUM_INSERTS;
/** What effects tell of themselves, one after the other in the order of the plan. */
export const METER_TOLD = METER_MONO + MAXIMUM_STRIPS;
export const MAXIMUM_TOLD = 16384;
export const METER_SLOTS = METER_TOLD + MAXIMUM_TOLD;

/** Where each of the first effects of a plan tells its readings, for as many as there is room for. */
export function toldPlaces(inserts: readonly PlanInsert[]): { readonly at: number; readonly count: number }[] {
  let at = METER_TOLD;
  return inserts.slice(0, MAXIMUM_INSERTS).flatMap(({ effect }) => {
    const count = toldBy(effectById(effect));
    const place = { at, count };
    at += count;
    return at <= METER_SLOTS ? [place] : [];
  });
}
