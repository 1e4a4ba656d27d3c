import { kaiser, sinc } from '../math/windows';

export const SINC_TAPS = 8;
export const SINC_PHASES = 512;

function buildTable(): Float64Array {
  const table = new Float64Array((SINC_PHASES + 1) * SINC_TAPS);
  for (let phase = 0; phase <= SINC_PHASES; phase++) {
    const fraction = phase / SINC_PHASES;
    let sum = 0;
    for (let tap = 0; tap < SINC_TAPS; tap++) {
      const x = tap - (SINC_TAPS / 2 - 1) - fraction;
      const weight = sinc(x) * kaiser(x / (SINC_TAPS / 2), 5.5);
      table[phase * SINC_TAPS + tap] = weight;
      sum += weight;
    }
    for (let tap = 0; tap < SINC_TAPS; tap++) table[phase * SINC_TAPS + tap]! /= sum;
  }
  return table;
}

/**
 * Kaiser-windowed sinc weights for fractional reads, [phase][tap], each row summing to 1 (Smith, "Digital audio
 * resampling", and Laakso et al., "Splitting the unit delay", 1996). Tap t of a row weighs the sample at integer
 * delay floor(d) - 3 + t.
 */
export const SINC_TABLE = buildTable();
