/**
 * What a reading is: a level or the level taken away now, in dB; how far a sweep is through its cycle, 0 to 1; delays of
 * copies behind the dry sound in seconds, left and right by turns, NaN where there is none; a pitch in Hz; levels of
 * bands in dB, from the lowest up; a position from the listener in metres, to the right, ahead and up; keys that sound,
 * with parts of a semitone, NaN behind the last.
 */
export type MeterKind = 'level' | 'reduction' | 'place' | 'delays' | 'pitch' | 'bands' | 'position' | 'keys';

/** Something an effect tells of itself while it works. */
export interface MeterSpec {
  readonly kind: MeterKind;
  readonly name: string;
  /** Figures it consists of. */
  readonly count: number;
}

export const GAIN_REDUCTION_METER: MeterSpec = { kind: 'reduction', name: 'Level taken away', count: 1 };
export const SWEEP_METER: MeterSpec = { kind: 'place', name: 'Place of the sweep', count: 1 };

interface HasMeters {
  readonly meters?: readonly MeterSpec[];
}

/** Delays of `copies` copies on either side. */
export const delayMeters = (copies: number): MeterSpec => ({ kind: 'delays', name: 'Delays', count: 2 * copies });

/** Figures that the kernel of an effect tells. */
export function meterSlotCount(spec: HasMeters): number {
  return (spec.meters ?? []).reduce((sum, { count }) => sum + count, 0);
}

/** Where a reading begins among the figures that a kernel tells, and their number; null when it does not tell it. */
export function meterSlots(spec: HasMeters, kind: MeterKind): { readonly at: number; readonly count: number } | null {
  let at = 0;
  for (const reading of spec.meters ?? []) {
    if (reading.kind === kind) return { at, count: reading.count };
    at += reading.count;
  }
  return null;
}
