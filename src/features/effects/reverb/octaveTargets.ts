import { clamp } from '@/core/math/clamp';

/** Octave of 1 kHz, which both tilts leave as it is. */
const MIDDLE = 4;

export interface FactorRange {
  readonly min: number;
  readonly max: number;
}

const within = (factor: number, { min, max }: FactorRange) => Number(clamp(min, max, factor).toPrecision(4));

/** Factors by octave with another one at `octave`. */
export const withFactor = (
  factors: readonly number[],
  octave: number,
  factor: number,
  range: FactorRange,
): readonly number[] => factors.map((one, n) => (n === octave ? within(factor, range) : one));

/**
 * Factors by octave with one end raised or lowered, and the octaves from there to 1 kHz in proportion to their distance
 * from it.
 * @param ratio of the factor of the last octave to what it was
 */
export function tilted(
  factors: readonly number[],
  end: 'lows' | 'highs',
  ratio: number,
  range: FactorRange,
): readonly number[] {
  return factors.map((one, n) => {
    const distance = (end === 'lows' ? MIDDLE - n : n - MIDDLE) / MIDDLE;
    return distance > 0 ? within(one * ratio ** distance, range) : one;
  });
}
