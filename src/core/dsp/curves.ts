import { HALF_PI } from '../math/circle';
import { sin } from '../math/elementary';

/** One side of a curve: c + square c^2 + cube c^3, with c clamped between two levels. */
export interface Side {
  readonly low: number;
  readonly high: number;
  readonly square: number;
  readonly cube: number;
}

/** A fold is held at full scale after it has folded twice. */
export const FOLD_END = 5 * HALF_PI;
const SOFT = -4 / 27;
/** An uneven curve bends sooner below than above, which makes even harmonics. */
const LOWER = 0.6;

/**
 * Memoryless curves with slope 1 at zero that reach 1, as sums of polynomials of the clamped sound; the fold is a sine.
 * Soft: x - 4/27 x^3 up to 1.5. Tape: x - 1/4 x |x| up to 2, bent from the very start.
 */
export const CURVES = {
  soft: [{ low: -1.5, high: 1.5, square: 0, cube: SOFT }],
  hard: [{ low: -1, high: 1, square: 0, cube: 0 }],
  fold: [],
  asymmetric: [
    { low: 0, high: 1.5, square: 0, cube: SOFT },
    { low: -1.5 * LOWER, high: 0, square: 0, cube: SOFT / (LOWER * LOWER) },
  ],
  tape: [
    { low: 0, high: 2, square: -0.25, cube: 0 },
    { low: -2, high: 0, square: 0.25, cube: 0 },
  ],
} as const satisfies Record<string, readonly Side[]>;

export type CurveName = keyof typeof CURVES;
export const CURVE_NAMES = Object.keys(CURVES) as readonly CurveName[];

export function curveAt(name: CurveName, x: number): number {
  if (name === 'fold') return x >= FOLD_END ? 1 : x <= -FOLD_END ? -1 : sin(x);
  return CURVES[name].reduce((sum: number, { low, high, square, cube }) => {
    const c = Math.min(high, Math.max(low, x));
    return sum + c * (1 + c * (square + c * cube));
  }, 0);
}

/** The largest |output| of a curve for inputs up to `level`. */
export function reachOf(name: CurveName, level: number): number {
  return name === 'fold' && level >= HALF_PI ? 1 : Math.abs(curveAt(name, level));
}
