import { cos, exp, log, sin } from '../math/elementary';
import { OCTAVES_HZ } from './octaveBands';

/** Bands for which a decay is specified: octaves, the lowest and the highest with all beyond them. */
export const DECAY_BANDS = OCTAVES_HZ.length;
/** Numbers that make a second-order section: b0, b1, b2, a1, a2. */
export const SECTION = 5;

/** The band that gives a line its level; all others stand apart from it. */
const LEVEL_BAND = 4;
const LOW_SHELF_HZ = 95;
/** The high shelf begins at this part of the highest band. */
const HIGH_SHELF_PART = 0.70625;
/** Bands end here, as a part of the rate. */
const HIGHEST = 0.46;
const BELL_Q = 1.1;
const SHELF_Q = 0.6;
/** ln(10) / 40: from decibels to the root of a gain. */
const HALF_DB = 0.05756462732485115;
const DB = 4.342944819032518;
/** Gains of bands beyond this are of no use to any decay. */
const MOST_DB = 40;
const CORRECTIONS = 2;
/** A band counts for nothing that changes the decay by less than this part. */
const NEXT_TO_NOTHING = 0.009;
/** Places at which a line is held below unity: the ends of the band, and an octave's eighth apart between them, the bands among them. */
const CHECKS = 84;
const CLOSER = 16;
/** A line loses at least this part of its highest gain in a pass: so exactly are the levels between places known. */
const LEAST_LOSS = 2e-3;

/** A filter section without its gain. */
interface Prototype {
  readonly kind: 'low' | 'bell' | 'high';
  readonly cosine: number;
  readonly alpha: number;
}

/**
 * Filters that let sound in delay lines decay at a rate of its own in each octave: a level and nine second-order
 * sections, shelves at both ends and bells between them. The gains of the sections are found by least squares from what
 * a decibel of each does at all places (Schlecht and Habets, "Accurate reverberation time control in feedback delay
 * networks", 2017) and corrected twice by what they really come to. Sections are those of Bristow-Johnson ("Cookbook
 * formulae for audio equalizer biquad filter coefficients", 2005).
 */
export class DecayFilters {
  private readonly prototypes: readonly Prototype[];
  /** Bands at this rate: those below the highest frequency, and one at it for all above. */
  private readonly count: number;
  /** sin^2 of half the angular frequency, by frequency of `OCTAVES_HZ`. */
  private readonly places: Float64Array;
  private readonly checks: Float64Array;
  /** Gains of the bands for a decibel wanted at each place. */
  private readonly inverse: readonly Float64Array[];
  /** Gains of the last design in dB. */
  readonly gains = new Float64Array(DECAY_BANDS);
  private readonly section = new Float64Array(SECTION * DECAY_BANDS);
  private readonly rest = new Float64Array(DECAY_BANDS);

  constructor(sampleRate: number) {
    const angle = (hz: number) => (2 * Math.PI * Math.min(hz, HIGHEST * sampleRate)) / sampleRate;
    const beyond = OCTAVES_HZ.findIndex((hz) => hz > HIGHEST * sampleRate);
    this.count = beyond < 0 ? DECAY_BANDS : beyond + 1;
    this.prototypes = OCTAVES_HZ.map((hz, band) => {
      const kind = band === 0 ? 'low' : band === this.count - 1 ? 'high' : 'bell';
      const w = angle(kind === 'low' ? LOW_SHELF_HZ : kind === 'high' ? HIGH_SHELF_PART * hz : hz);
      return { kind, cosine: cos(w), alpha: sin(w) / (2 * (kind === 'bell' ? BELL_Q : SHELF_Q)) };
    });
    const half = (hz: number) => {
      const s = sin(angle(hz) / 2);
      return s * s;
    };
    this.places = Float64Array.from(OCTAVES_HZ.slice(0, this.count), half);
    this.checks = Float64Array.from({ length: CHECKS }, (_, n) =>
      n === 0 ? 0 : n === CHECKS - 1 ? 1 : half(15.625 * exp((n / 8) * log(2))),
    );
    const columns = Array.from(this.places, (_, band) => {
      this.gains.fill(0);
      this.gains[band] = 1;
      this.tune();
      return Float64Array.from(this.places, (place) => this.responseDb(place));
    });
    this.inverse = inverseOf(columns);
  }

  /** Loss of a line of `frames` frames in one pass at a band, in dB relative to `LEVEL_BAND`; `losses` in dB a frame, 0 or less. */
  private wanted(losses: Float64Array, frames: number, band: number): number {
    return frames * (losses[band]! - losses[LEVEL_BAND]!);
  }

  /**
   * Designs the filters of a line.
   * @param losses by band, in dB a frame, 0 and down
   * @param frames length of the line
   * @param out SECTION numbers a band are written from `at` on
   * @returns the gain of the line, beside its sections
   */
  design(losses: Float64Array, frames: number, out: Float64Array): number {
    const { gains, rest, places, count } = this;
    let uneven = false;
    for (let band = 0; band < count; band++) {
      rest[band] = this.wanted(losses, frames, band);
      gains[band] = 0;
      if (rest[band] !== 0) uneven = true;
    }
    let levelDb = frames * losses[LEVEL_BAND]!;
    for (let turn = 0; uneven && turn <= CORRECTIONS; turn++) {
      for (let band = 0; band < count; band++) {
        const row = this.inverse[band]!;
        let more = 0;
        for (let place = 0; place < count; place++) more += row[place]! * rest[place]!;
        gains[band] = Math.min(MOST_DB, Math.max(-MOST_DB, gains[band]! + more));
      }
      if (turn === CORRECTIONS) this.leaveOut(levelDb);
      this.tune();
      if (turn === CORRECTIONS) break;
      for (let band = 0; band < count; band++) {
        rest[band] = this.wanted(losses, frames, band) - this.responseDb(places[band]!);
      }
    }
    if (uneven) {
      // Between the places as well no sound may grow.
      let span = 0;
      for (let band = 0; band < DECAY_BANDS; band++) span = Math.max(span, Math.abs(gains[band]!));
      levelDb = Math.min(levelDb, -LEAST_LOSS * span - this.mostDb());
    } else this.tune();
    out.set(this.section);
    return exp(2 * HALF_DB * levelDb);
  }

  /** Bands that would change next to nothing of the decay are spared. */
  private leaveOut(levelDb: number): void {
    const { gains } = this;
    for (let band = 0; band < DECAY_BANDS; band++) {
      if (Math.abs(gains[band]!) < NEXT_TO_NOTHING * -levelDb) gains[band] = 0;
    }
  }

  /** The sections at the gains there are. */
  private tune(): void {
    const { section, gains } = this;
    for (let band = 0; band < DECAY_BANDS; band++) {
      const { kind, cosine: c, alpha } = this.prototypes[band]!;
      const at = SECTION * band;
      const a = exp(HALF_DB * gains[band]!);
      if (kind === 'bell') {
        const a0 = 1 + alpha / a;
        section[at] = (1 + alpha * a) / a0;
        section[at + 1] = section[at + 3] = (-2 * c) / a0;
        section[at + 2] = (1 - alpha * a) / a0;
        section[at + 4] = (1 - alpha / a) / a0;
        continue;
      }
      // Both shelves, the high one as the low one of the mirrored band.
      const side = kind === 'low' ? 1 : -1;
      const root = 2 * Math.sqrt(a) * alpha;
      const up = a + 1;
      const down = (a - 1) * c * side;
      const a0 = up + down + root;
      section[at] = (a * (up - down + root)) / a0;
      section[at + 1] = (2 * a * side * (a - 1 - up * c * side)) / a0;
      section[at + 2] = (a * (up - down - root)) / a0;
      section[at + 3] = (-2 * side * (a - 1 + up * c * side)) / a0;
      section[at + 4] = (up + down - root) / a0;
    }
  }

  /** The highest level of all sections, in dB: looked for closely about the highest place. */
  private mostDb(): number {
    const { checks } = this;
    let most = -Infinity;
    let top = 0;
    for (let n = 0; n < CHECKS; n++) {
      const level = this.responseDb(checks[n]!);
      if (level <= most) continue;
      most = level;
      top = n;
    }
    for (const other of [Math.max(0, top - 1), Math.min(CHECKS - 1, top + 1)]) {
      for (let n = 1; n < CLOSER; n++) {
        const share = n / CLOSER;
        most = Math.max(most, this.responseDb(checks[top]! + share * (checks[other]! - checks[top]!)));
      }
    }
    return most;
  }

  /** Level of all sections at a place, in dB. */
  private responseDb(place: number): number {
    const { section } = this;
    let power = 1;
    for (let at = 0; at < section.length; at += SECTION) {
      const [b0, b1, b2, a1, a2] = [
        section[at]!,
        section[at + 1]!,
        section[at + 2]!,
        section[at + 3]!,
        section[at + 4]!,
      ];
      const top = b0 + b1 + b2;
      const bottom = 1 + a1 + a2;
      power *=
        (top * top - 4 * place * (b0 * b1 + 4 * b0 * b2 + b1 * b2 - 4 * b0 * b2 * place)) /
        (bottom * bottom - 4 * place * (a1 + 4 * a2 + a1 * a2 - 4 * a2 * place));
    }
    return DB * log(power);
  }
}

const known = new Map<number, DecayFilters>();

/** The filters of a sample rate, which all that design by them share. */
export function decayFiltersAt(sampleRate: number): DecayFilters {
  let filters = known.get(sampleRate);
  if (!filters) known.set(sampleRate, (filters = new DecayFilters(sampleRate)));
  return filters;
}

/** Inverse of a matrix that is given by columns, by rows (Gauss and Jordan, with pivots). */
function inverseOf(columns: readonly Float64Array[]): Float64Array[] {
  const size = columns.length;
  const rows = Array.from({ length: size }, (_, row) =>
    Float64Array.from({ length: 2 * size }, (_, n) => (n < size ? columns[n]![row]! : n - size === row ? 1 : 0)),
  );
  for (let at = 0; at < size; at++) {
    let pivot = at;
    for (let row = at + 1; row < size; row++) {
      if (Math.abs(rows[row]![at]!) > Math.abs(rows[pivot]![at]!)) pivot = row;
    }
    [rows[at], rows[pivot]] = [rows[pivot]!, rows[at]!];
    const own = rows[at]!;
    const factor = own[at]!;
    for (let n = 0; n < 2 * size; n++) own[n] = own[n]! / factor;
    for (let row = 0; row < size; row++) {
      const other = rows[row]!;
      const share = other[at]!;
      if (row === at || share === 0) continue;
      for (let n = 0; n < 2 * size; n++) other[n] = other[n]! - share * own[n]!;
    }
  }
  return rows.map((row) => row.slice(size));
}
