import { kaiser, kaiserBeta, sinc } from '../math/windows';

/**
 * The taps of a half-band filter that are not zero, from the centre outwards on one side, the centre tap of 0.5 left
 * out; the filter has 4 * pairs - 1 taps.
 */
export function halfBandTaps(pairs: number, stopbandDb: number): Float64Array {
  const half = Float64Array.from({ length: pairs }, (_, i) => {
    const n = 2 * i + 1;
    return 0.5 * sinc(n / 2) * kaiser(n / (2 * pairs), kaiserBeta(stopbandDb));
  });
  const sum = half.reduce((total, tap) => total + tap, 0) * 2;
  return half.map((tap) => (tap * 0.5) / sum);
}
