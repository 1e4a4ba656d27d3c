import { atan2, exp, tan } from '../math/elementary';

/** Halvings of the interval in which the Q is looked for: to less than a millionth. */
const HALVINGS = 30;

/**
 * Q of a two-pole band-pass by the bilinear transform, so that its edges at -3 dB lie a width apart at any rate: the transform
 * narrows bands close to half the rate. Of a bell the same Q gives edges at half of its decibels (Bristow-Johnson, "Cookbook
 * formulae for audio equalizer biquad filter coefficients", 2005).
 * @param centreHz up to 0.49 of the rate (clamped)
 * @param octaves width, above 0
 */
export function bandQ(centreHz: number, octaves: number, sampleRate: number): number {
  const centre = tan((Math.PI * Math.min(centreHz, 0.49 * sampleRate)) / sampleRate);
  const ratio = exp(octaves * Math.LN2);
  // Half of 1/Q; the edges of the prototype lie at the root of what is added and taken away.
  const isTooNarrow = (half: number) => {
    const root = Math.sqrt(1 + half * half);
    return atan2(centre * (root + half), 1) < ratio * atan2(centre * (root - half), 1);
  };
  let low = (0.5 * (ratio - 1)) / Math.sqrt(ratio);
  let high = low;
  while (isTooNarrow(high)) high *= 2;
  for (let n = 0; n < HALVINGS && high > low; n++) {
    const middle = (low + high) / 2;
    if (isTooNarrow(middle)) low = middle;
    else high = middle;
  }
  return 0.5 / high;
}
