/**
 * Unit of a meter: `level` and `reduction` in dB; `place`, the phase of a sweep, 0 to 1; `delays` of copies behind the dry sound
 * in seconds, left and right in turn, NaN for none; `pitch` in Hz; `bands`, levels in dB from the lowest up; `position` from the
 * listener in metres, right, ahead and up; `keys` that sound, with parts of a semitone, NaN behind the last.
 */
export type MeterKind = 'level' | 'reduction' | 'place' | 'delays' | 'pitch' | 'bands' | 'position' | 'keys';

/** A meter of an effect. */
export interface MeterSpec {
  readonly kind: MeterKind;
  readonly name: string;
  /** Slots that it takes. */
  readonly count: number;
}

export const GAIN_REDUCTION_METER: MeterSpec = { kind: 'reduction', name: 'Level taken away', count: 1 };
export const SWEEP_METER: MeterSpec = { kind: 'place', name: 'Place of the sweep', count: 1 };

interface HasMeters {
  readonly meters?: readonly MeterSpec[];
}

/** Delays of `copies` copies on either side. */
export const delayMeters = (copies: number): MeterSpec => ({ kind: 'delays', name: 'Delays', count: 2 * copies });

/** Slots of all meters of an effect. */
export function meterSlotCount(spec: HasMeters): number {
  return (spec.meters ?? []).reduce((sum, { count }) => sum + count, 0);
}

/** First slot and slot count of a meter; null if the effect has none of this kind. */
export function meterSlots(spec: HasMeters, kind: MeterKind): { readonly at: number; readonly count: number } | null {
  let at = 0;
  for (const meter of spec.meters ?? []) {
    if (meter.kind === kind) return { at, count: meter.count };
    at += meter.count;
  }
  return null;
}
