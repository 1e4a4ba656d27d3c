import { sin, cos } from './elementary';

/** Modified Bessel function of the first kind, order 0, by its power series (Abramowitz and Stegun 9.6.12). */
export function besselI0(x: number): number {
  const quarter = (x * x) / 4;
  let term = 1;
  let sum = 1;
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= quarter / (k * k);
    sum += term;
  }
  return sum;
}

/**
 * Kaiser window at position x in [-1, 1], 0 outside (Kaiser, "Nonrecursive digital filter design using the I0-sinh
 * window function", 1974).
 */
export function kaiser(x: number, beta: number): number {
  const inside = 1 - x * x;
  return inside < 0 ? 0 : besselI0(beta * Math.sqrt(inside)) / besselI0(beta);
}

/** Kaiser's empirical beta for a stopband attenuation in dB of at least 50. */
export function kaiserBeta(attenuationDb: number): number {
  return 0.1102 * (attenuationDb - 8.7);
}

/** sin(pi x) / (pi x). */
export function sinc(x: number): number {
  return x === 0 ? 1 : sin(Math.PI * x) / (Math.PI * x);
}

/** Hann window of n points, periodic. */
export function hann(n: number): Float64Array {
  return Float64Array.from({ length: n }, (_, i) => 0.5 - 0.5 * cos((2 * Math.PI * i) / n));
}
