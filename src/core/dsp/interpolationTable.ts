import { sinc } from '../math/windows';

export const SINC_TAPS = 16;
export const SINC_PHASES = 256;
/** Part of the band, up to half the rate, that is read right: 16 kHz at 44.1 kHz lie at 0.73. */
const BAND = 0.74;
/** Of that, the lowest part, where errors count more, and by how much. */
const LOW_BAND = 0.1;
const LOW_WEIGHT = 100;

/** Solves a symmetric positive definite system by Gaussian elimination; `matrix` and `right` are used up. */
function solve(matrix: number[][], right: number[]): number[] {
  const n = right.length;
  for (let i = 0; i < n; i++) {
    for (let row = i + 1; row < n; row++) {
      const factor = matrix[row]![i]! / matrix[i]![i]!;
      for (let column = i; column < n; column++) matrix[row]![column]! -= factor * matrix[i]![column]!;
      right[row]! -= factor * right[i]!;
    }
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let column = i + 1; column < n; column++) right[i]! -= matrix[i]![column]! * right[column]!;
    right[i]! /= matrix[i]![i]!;
  }
  return right;
}

/** Product of two taps `apart` taps from each other, integrated over the weighted band. */
function product(apart: number): number {
  return BAND * sinc(BAND * apart) + LOW_WEIGHT * LOW_BAND * sinc(LOW_BAND * apart);
}

function buildTable(): Float32Array {
  const table = new Float32Array((SINC_PHASES + 1) * SINC_TAPS);
  const taps = Array.from({ length: SINC_TAPS }, (_, tap) => tap);
  for (let phase = 0; phase <= SINC_PHASES; phase++) {
    const delay = SINC_TAPS / 2 - 1 + phase / SINC_PHASES;
    const matrix = taps.map((k) => taps.map((l) => product(k - l)));
    const weights = solve(
      matrix,
      taps.map((k) => product(k - delay)),
    );
    table.set(weights.reverse(), phase * SINC_TAPS);
  }
  return table;
}

/**
 * Weights for fractional reads, [phase][tap], the oldest sample first: of all filters of this length the one whose error
 * over the band, weighted, is least in the mean square (Laakso et al., "Splitting the unit delay", 1996, general least
 * squares). Its error is under -60 dB of the sound to 16 kHz at 44.1 kHz, and under -90 dB at 1 kHz. Tap t of a row weighs
 * the sample at integer delay floor(d) + 8 - t.
 */
export const SINC_TABLE = buildTable();
