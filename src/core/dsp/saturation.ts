import { sin } from '../math/elementary';

export const DRIVE_CURVES = ['soft', 'hard', 'fold', 'asymmetric'] as const;
export type DriveCurve = (typeof DRIVE_CURVES)[number];

const HALF_PI = 1.5707963267948966;

/** Rational tanh, 3/2 Pade with its ends held: error under 0.024 where it is not yet flat. */
function softCurve(x: number): number {
  if (x >= 3) return 1;
  if (x <= -3) return -1;
  const square = x * x;
  return (x * (27 + square)) / (27 + 9 * square);
}

/** Memoryless curves with unit slope at zero and output within [-1, 1]. */
export const CURVES: Readonly<Record<DriveCurve, (x: number) => number>> = {
  soft: softCurve,
  hard: (x) => (x > 1 ? 1 : x < -1 ? -1 : x),
  fold: (x) => sin(x > 4 * HALF_PI ? 4 * HALF_PI : x < -4 * HALF_PI ? -4 * HALF_PI : x),
  asymmetric: (x) => (x >= 0 ? softCurve(x) : 0.6 * softCurve(x / 0.6)),
};

/** The largest |output| for inputs up to `level`. */
export function reachOf(curve: DriveCurve, level: number): number {
  return curve === 'fold' && level >= HALF_PI ? 1 : Math.abs(CURVES[curve](level));
}

/**
 * Leaves |x| up to `knee` untouched and bends what is above towards `limit` with a continuous slope: the guard that
 * keeps a feedback loop finite.
 */
export function guard(x: number, knee: number, limit: number): number {
  const magnitude = x < 0 ? -x : x;
  if (magnitude <= knee) return x;
  const span = limit - knee;
  const over = (magnitude - knee) / span;
  const bent = knee + (span * over) / (1 + over);
  return x < 0 ? -bent : bent;
}
