import { HALF_PI } from '../math/circle';
import { cos } from '../math/elementary';

/**
 * Gains of the sides for a pan from -1 (left) to 1 (right): the far side falls by a quarter cosine to exactly 0, the
 * near side stays, and the centre is 0 dB on both.
 */
export function balance(pan: number): { left: number; right: number } {
  return {
    left: pan > 0 ? (pan >= 1 ? 0 : cos(pan * HALF_PI)) : 1,
    right: pan < 0 ? (pan <= -1 ? 0 : cos(pan * HALF_PI)) : 1,
  };
}
