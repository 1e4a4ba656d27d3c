import { exp, log } from './elementary';

/** Points from the lowest x up. */
export interface Points {
  readonly x: readonly number[];
  readonly y: readonly number[];
}

/**
 * A curve through points on two logarithmic axes, without a swing beyond them, level at both ends (Fritsch and Butland,
 * "A method for constructing local monotone piecewise cubic interpolants", 1984).
 */
export function monotoneCurveAt({ x, y }: Points, at: number): number {
  const last = x.length - 1;
  if (at <= x[0]!) return y[0]!;
  if (at >= x[last]!) return y[last]!;
  let n = 0;
  while (at > x[n + 1]!) n++;
  const width = log(x[n + 1]! / x[n]!);
  const t = log(at / x[n]!) / width;
  const low = log(y[n]!);
  const high = log(y[n + 1]!);
  const from = width * slopeAt(x, y, n);
  const to = width * slopeAt(x, y, n + 1);
  const square = t * t;
  const cube = square * t;
  return exp(
    low * (2 * cube - 3 * square + 1) +
      from * (cube - 2 * square + t) +
      high * (3 * square - 2 * cube) +
      to * (cube - square),
  );
}

function slopeAt(x: readonly number[], y: readonly number[], n: number): number {
  if (n === 0 || n === x.length - 1) return 0;
  const before = log(x[n]! / x[n - 1]!);
  const after = log(x[n + 1]! / x[n]!);
  const rise = log(y[n]! / y[n - 1]!) / before;
  const next = log(y[n + 1]! / y[n]!) / after;
  if (rise * next <= 0) return 0;
  const share = (before + 2 * after) / (3 * (before + after));
  return (rise * next) / (share * next + (1 - share) * rise);
}
