import { sinc } from '../math/windows';

export const SINC_TAPS = 16;
export const SINC_PHASES = 4096;
/** Part of the band, up to half the rate, that is read right: 16 kHz at 44.1 kHz lie at 0.73. */
const BAND = 0.74;
/** Lowest part of the band, in which errors weigh more, and the weight. */
const LOW_BAND = 0.1;
const LOW_WEIGHT = 100;

/** Product of two taps `apart` taps from each other, integrated over the weighted band. */
function product(apart: number): number {
  return BAND * sinc(BAND * apart) + LOW_WEIGHT * LOW_BAND * sinc(LOW_BAND * apart);
}

/** Rows of the lower triangle whose product with its own mirror image is the matrix of products (Cholesky). */
function triangle(): number[][] {
  const rows: number[][] = [];
  for (let k = 0; k < SINC_TAPS; k++) {
    const row: number[] = [];
    for (let l = 0; l <= k; l++) {
      const other = l === k ? row : rows[l]!;
      let rest = product(k - l);
      for (let m = 0; m < l; m++) rest -= row[m]! * other[m]!;
      row.push(l === k ? Math.sqrt(rest) : rest / other[l]!);
    }
    rows.push(row);
  }
  return rows;
}

function buildTable(): Float32Array {
  const table = new Float32Array(SINC_PHASES * SINC_TAPS);
  const rows = triangle();
  const weights = new Float64Array(SINC_TAPS);
  for (let phase = 0; phase < SINC_PHASES; phase++) {
    const delay = SINC_TAPS / 2 - 1 + phase / SINC_PHASES;
    for (let k = 0; k < SINC_TAPS; k++) {
      let rest = product(k - delay);
      for (let m = 0; m < k; m++) rest -= rows[k]![m]! * weights[m]!;
      weights[k] = rest / rows[k]![k]!;
    }
    for (let k = SINC_TAPS - 1; k >= 0; k--) {
      let rest = weights[k]!;
      for (let m = k + 1; m < SINC_TAPS; m++) rest -= rows[m]![k]! * weights[m]!;
      weights[k] = rest / rows[k]![k]!;
    }
    for (let tap = 0; tap < SINC_TAPS; tap++) table[(phase + 1) * SINC_TAPS - 1 - tap] = weights[tap]!;
  }
  return table;
}

/**
 * Weights for fractional reads, [phase][tap], the oldest sample first: of all filters of this length the one whose error
 * over the band, weighted, is least in the mean square (Laakso et al., "Splitting the unit delay", 1996, general least
 * squares). Its error is under -60 dB of the sound to 16 kHz at 44.1 kHz, and under -90 dB at 1 kHz. A delay is read at the nearest phase. Tap t of a row weighs
 * the sample at integer delay floor(d) + 8 - t.
 */
export const SINC_TABLE = buildTable();
