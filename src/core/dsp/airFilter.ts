import { exp, log, sin } from '../math/elementary';
import { airLossDb } from './airAbsorption';
import { AIR_DESIGNS } from './airDesigns';

/** Numbers of a second-order section: b0, b1, b2, a1, a2. */
export const AIR_SECTION = 5;
/** Sections in a row, each for the metres that are beyond those before it. */
export const AIR_SECTIONS = 3;

/** Air that one section stands for. */
const SECTION_METRES = 68;
/** Designs are worked out for these distances, in metres, and mixed between them. */
const POINTS = [0.8, 1, 1.25, 1.6, 2, 2.5, 3.2, 4, 5, 6.3, 8, 10, 12.5, 16, 20, 25, 32, 40, 50, SECTION_METRES];
/** The loss is matched up to here, or to this part of the rate. */
const HIGHEST_HZ = 16000;
const HIGHEST_PART = 0.4;
/** Frequencies that a design is fitted at, and those above them that only keep it positive. */
const FITTED = 64;
const BEYOND = 32;
const FREQUENCIES = FITTED + BEYOND;
/** Weights of those above that are tried. */
const BEYOND_WEIGHTS = [0, 1e-6, 1e-5, 1e-4, 1e-3, 0.003, 0.01, 0.03, 0.1, 0.3, 1];
const ROUNDS = 12;
/** A fit is good enough at this part of the error that is allowed. */
const GOOD = 0.25;
/** Losses beyond this count for little, and beyond the second figure all the same. */
const DEEP_DB = 52;
const DEEPEST_DB = 60;
const DEEP_WEIGHT = 0.05;
const POWER_DB = 4.342944819032518;
const CHECKS = 65;
const LEAST_POWER = 1e-5;

/** Power of a section over s = sin^2(w / 2): (1 + b1 s + b2 s^2) / (1 + a1 s + a2 s^2). */
interface Powers {
  readonly a1: number;
  readonly a2: number;
  readonly b1: number;
  readonly b2: number;
}

const FLAT: Powers = { a1: 0, a2: 0, b1: 0, b2: 0 };
const over = (p1: number, p2: number, s: number): number => 1 + p1 * s + p2 * s * s;

/**
 * Filters that lose by frequency what air does on the way (ISO 9613-1 at 20 degrees and 50 % humidity, see `airLossDb`).
 * The power of a second-order section is fitted to the loss by iterated linear least squares (Sanathanan and Koerner,
 * "Transfer function synthesis as a ratio of two complex polynomials", 1963) over relative errors, and split into
 * minimum-phase polynomials. Within 1 dB up to 20 dB of loss and 5 % up to 50 dB, from 250 Hz to 16 kHz or 0.4 of the
 * rate, for 0 to 200 m; deeper losses are at least 45 dB.
 */
export class AirFilters {
  private readonly designs: (Powers | undefined)[];
  /** sin^2(w / 2) and dB a metre of the frequencies of a fit. */
  private readonly places = new Float64Array(FREQUENCIES);
  private readonly losses = new Float64Array(FREQUENCIES);
  /** Powers to be fitted, and how much each counts, of the fit under way. */
  private readonly powers = new Float64Array(FREQUENCIES);
  private readonly weights = new Float64Array(FREQUENCIES);
  private readonly columns = Array.from({ length: 4 }, () => new Float64Array(FREQUENCIES));
  private readonly wanted = new Float64Array(FREQUENCIES);

  /** @param known designs by point, worked out before */
  constructor(sampleRate: number, known: readonly (readonly [number, number, number, number])[] = []) {
    this.designs = known.map(([a1, a2, b1, b2]) => ({ a1, a2, b1, b2 }));
    const top = Math.min(HIGHEST_HZ, HIGHEST_PART * sampleRate);
    const end = 0.4975 * sampleRate;
    for (let n = 0; n < FREQUENCIES; n++) {
      const above = (n - FITTED + 1) / BEYOND;
      const hz = n < FITTED ? (top * (n + 1)) / FITTED : top + above * (end - top);
      const half = sin((Math.PI * hz) / sampleRate);
      this.places[n] = half * half;
      this.losses[n] = airLossDb(hz);
    }
  }

  /**
   * Writes the sections for some metres of air, 0 to 200 (clamped), one after the other from `at` on.
   * @returns how many of them do anything, 0 to 3
   */
  design(metres: number, out: Float64Array, at: number): number {
    for (let section = 0; section < AIR_SECTIONS; section++) {
      const own = Math.min(SECTION_METRES, Math.max(0, metres - section * SECTION_METRES));
      toSection(this.powersFor(own), out, at + section * AIR_SECTION);
    }
    return Math.min(AIR_SECTIONS, Math.ceil(Math.max(0, metres) / SECTION_METRES));
  }

  /** Between two designs their polynomials are mixed: so that the loss at the highest frequency is right. */
  private powersFor(metres: number): Powers {
    if (metres <= 0) return FLAT;
    let point = 0;
    while (point < POINTS.length - 1 && POINTS[point]! < metres) point++;
    const upper = this.fitted(point);
    if (metres === POINTS[point]) return upper;
    const lower = point === 0 ? FLAT : this.fitted(point - 1);
    const s = this.places[FITTED - 1]!;
    const power = exp(-Math.min(DEEPEST_DB, this.losses[FITTED - 1]! * metres) / POWER_DB);
    const below = power * over(lower.a1, lower.a2, s) - over(lower.b1, lower.b2, s);
    const above = power * over(upper.a1, upper.a2, s) - over(upper.b1, upper.b2, s);
    const t = Math.min(1, Math.max(0, below / (below - above)));
    const mixed = (from: number, to: number) => from + t * (to - from);
    return {
      a1: mixed(lower.a1, upper.a1),
      a2: mixed(lower.a2, upper.a2),
      b1: mixed(lower.b1, upper.b1),
      b2: mixed(lower.b2, upper.b2),
    };
  }

  /** All designs, those that are not known yet worked out. */
  allDesigns(): Powers[] {
    return POINTS.map((_, point) => this.fitted(point));
  }

  private fitted(point: number): Powers {
    return (this.designs[point] ??= this.fit(POINTS[point]!));
  }

  /** The best of what some weights beyond the highest frequency come to. */
  private fit(metres: number): Powers {
    const { places, losses, powers, weights } = this;
    for (let n = 0; n < FREQUENCIES; n++) {
      const loss = losses[n]! * metres;
      powers[n] = exp(-Math.min(DEEPEST_DB, loss) / POWER_DB);
      weights[n] = (loss > DEEP_DB ? DEEP_WEIGHT : 1) / (0.5 + 0.035 * loss);
    }
    let best = FLAT;
    let least = this.errorOf(FLAT, metres);
    const numerators = new Float64Array(FREQUENCIES);
    for (const beyond of BEYOND_WEIGHTS) {
      // Powers that the last round came to, which turn errors of the polynomials into errors of their ratio.
      numerators.set(powers);
      for (let round = 0; round < ROUNDS && least > GOOD; round++) {
        const found = this.solve(beyond, numerators);
        for (let n = 0; n < FREQUENCIES; n++) {
          numerators[n] = Math.max(1e-7, powers[n]! * over(found.a1, found.a2, places[n]!));
        }
        const error = isPositive(found) ? this.errorOf(found, metres) : Infinity;
        if (error < least) [best, least] = [found, error];
      }
    }
    return best;
  }

  /** The largest error in parts of what is allowed. */
  private errorOf({ a1, a2, b1, b2 }: Powers, metres: number): number {
    let most = 0;
    for (let n = 0; n < FITTED; n++) {
      const s = this.places[n]!;
      const wanted = this.losses[n]! * metres;
      const loss = POWER_DB * log(over(a1, a2, s) / over(b1, b2, s));
      if (wanted > DEEP_DB) most = Math.max(most, loss < 46 ? 9 : 0);
      else most = Math.max(most, Math.abs(loss - wanted) / (0.5 + 0.04 * wanted));
    }
    return most;
  }

  /** One round of weighted linear least squares. */
  private solve(beyond: number, numerators: Float64Array): Powers {
    const { columns, wanted, places, powers, weights } = this;
    const [first, second, third, fourth] = columns as [Float64Array, Float64Array, Float64Array, Float64Array];
    for (let n = 0; n < FREQUENCIES; n++) {
      const s = places[n]!;
      const power = powers[n]!;
      const weight = (weights[n]! / numerators[n]!) * (n < FITTED ? 1 : beyond);
      first[n] = -power * s * weight;
      second[n] = -power * s * s * weight;
      third[n] = s * weight;
      fourth[n] = s * s * weight;
      wanted[n] = (power - 1) * weight;
    }
    const [a1, a2, b1, b2] = leastSquares(columns, wanted);
    return { a1: a1!, a2: a2!, b1: b1!, b2: b2! };
  }
}

/** True if both polynomials are powers of some filter. */
function isPositive({ a1, a2, b1, b2 }: Powers): boolean {
  for (let n = 0; n < CHECKS; n++) {
    const s = n / (CHECKS - 1);
    if (!(over(a1, a2, s) > LEAST_POWER && over(b1, b2, s) > LEAST_POWER)) return false;
  }
  return true;
}

const dot = (a: Float64Array, b: Float64Array): number => {
  let sum = 0;
  for (let n = 0; n < a.length; n++) sum += a[n]! * b[n]!;
  return sum;
};

/**
 * Weights of columns whose sum comes nearest to a vector, by modified Gram-Schmidt (Golub and Van Loan, "Matrix
 * computations"). Columns that the others make up already weigh nothing. Overwrites what it is given.
 */
function leastSquares(columns: readonly Float64Array[], wanted: Float64Array): number[] {
  const size = columns.length;
  const shares = columns.map(() => new Float64Array(size));
  const lengths = columns.map((column) => Math.sqrt(dot(column, column)));
  const found = new Array<number>(size).fill(0);
  const along = new Float64Array(size);
  const kept = columns.map(() => true);
  for (let k = 0; k < size; k++) {
    const own = columns[k]!;
    const length = Math.sqrt(dot(own, own));
    kept[k] = length > 1e-12 * lengths[k]!;
    if (!kept[k]) continue;
    shares[k]![k] = length;
    for (let n = 0; n < own.length; n++) own[n] = own[n]! / length;
    for (let other = k + 1; other < size; other++) {
      const column = columns[other]!;
      const share = (shares[k]![other] = dot(own, column));
      for (let n = 0; n < own.length; n++) column[n] = column[n]! - share * own[n]!;
    }
    along[k] = dot(own, wanted);
    for (let n = 0; n < own.length; n++) wanted[n] = wanted[n]! - along[k]! * own[n]!;
  }
  for (let k = size - 1; k >= 0; k--) {
    if (!kept[k]) continue;
    let rest = along[k]!;
    for (let other = k + 1; other < size; other++) rest -= shares[k]![other]! * found[other]!;
    found[k] = rest / shares[k]![k]!;
  }
  return found;
}

/**
 * The minimum-phase polynomial 1, z^-1, z^-2 whose power over s is 1 + p1 s + p2 s^2: from its roots of the power at 0 Hz
 * and at half the rate, and what is between.
 */
function spectralFactor(p1: number, p2: number): readonly [number, number, number] {
  const end = Math.sqrt(Math.max(0, 1 + p1 + p2));
  const middle = 0.5 * (1 + end);
  const first = 0.5 * (middle + Math.sqrt(Math.max(0, middle * middle - p2 / 4)));
  return [first, 0.5 * (1 - end), p2 / (16 * first)];
}

function toSection({ a1, a2, b1, b2 }: Powers, out: Float64Array, at: number): void {
  const [d0, d1, d2] = spectralFactor(a1, a2);
  const [n0, n1, n2] = spectralFactor(b1, b2);
  out[at] = n0 / d0;
  out[at + 1] = n1 / d0;
  out[at + 2] = n2 / d0;
  out[at + 3] = d1 / d0;
  out[at + 4] = d2 / d0;
}

const known = new Map<number, AirFilters>();

/** The filters of a sample rate, which all places share. */
export function airFiltersAt(sampleRate: number): AirFilters {
  let filters = known.get(sampleRate);
  if (!filters) known.set(sampleRate, (filters = new AirFilters(sampleRate, AIR_DESIGNS.get(sampleRate))));
  return filters;
}
