/**
 * What a reading is: a level or the level taken away now, in dB; how far a sweep is through its cycle, 0 to 1; delays of
 * copies behind the dry sound in seconds, left and right by turns, NaN where there is none; a pitch in Hz; levels of
 * bands in dB, from the lowest up; a position from the listener in metres, to the right, ahead and up; keys that sound,
 * with parts of a semitone, NaN behind the last.
 */
export type ReadingKind = 'level' | 'reduction' | 'place' | 'delays' | 'pitch' | 'bands' | 'position' | 'keys';

/** Something an effect tells of itself while it works. */
export interface Reading {
  readonly kind: ReadingKind;
  readonly name: string;
  /** Figures it consists of. */
  readonly count: number;
}

export const REDUCTION: Reading = { kind: 'reduction', name: 'Level taken away', count: 1 };
export const SWEEP: Reading = { kind: 'place', name: 'Place of the sweep', count: 1 };

interface Telling {
  readonly tells?: readonly Reading[];
}

/** Delays of `copies` copies on either side. */
export const delaysOf = (copies: number): Reading => ({ kind: 'delays', name: 'Delays', count: 2 * copies });

/** Figures that the kernel of an effect tells. */
export function toldBy(spec: Telling): number {
  return (spec.tells ?? []).reduce((sum, { count }) => sum + count, 0);
}

/** Where a reading begins among the figures that a kernel tells, and their number; null when it does not tell it. */
export function readingAt(spec: Telling, kind: ReadingKind): { readonly at: number; readonly count: number } | null {
  let at = 0;
  for (const reading of spec.tells ?? []) {
    if (reading.kind === kind) return { at, count: reading.count };
    at += reading.count;
  }
  return null;
}
