import { crossSpectra, fieldOf, type StereoField } from './stereoField';

const LOWEST_HZ = 31.5;
const HIGHEST_HZ = 16000;
/** A region stands out by this much from what lies beside it, and is no farther than that under the loudest, in dB. */
const PROMINENT_DB = 2;
const LEAST_DB = 18;
const MOST_REGIONS = 4;
/** A region reaches to where it has fallen by this much. */
const EDGE_DB = 4;

/** A frequency region in which a sound is prominent. */
export interface Region {
  readonly centreHz: number;
  readonly fromHz: number;
  readonly toHz: number;
  /** Level above its neighbourhood on either side, in dB. */
  readonly prominenceDb: number;
}

/** A sound over its whole length: by thirds of an octave, where it lives, and what becomes of it in mono. */
export interface Portrait {
  readonly hz: readonly number[];
  /** Decibels beside the whole. */
  readonly levelsDb: readonly number[];
  /** From the most prominent on. */
  readonly regions: readonly Region[];
  readonly field: StereoField;
}

/** Thirds of an octave about 1 kHz (IEC 61260-1), in which pink noise is even. */
function thirdsOf(powers: Float64Array, binHz: number): { hz: number[]; levelsDb: number[] } {
  const first = Math.ceil(3 * Math.log2(LOWEST_HZ / 1000));
  const last = Math.floor(3 * Math.log2(HIGHEST_HZ / 1000));
  const hz = Array.from({ length: last - first + 1 }, (_, n) => 1000 * 2 ** ((first + n) / 3));
  const sums = hz.map((centre) => {
    const [from, to] = [centre * 2 ** (-1 / 6), centre * 2 ** (1 / 6)].map((edge) => edge / binHz) as [number, number];
    let sum = 0;
    // Bins at an edge count by the share of them that lies inside.
    for (let bin = Math.floor(from + 0.5); bin <= Math.floor(to + 0.5) && bin < powers.length; bin++) {
      sum += powers[bin]! * Math.max(0, Math.min(to, bin + 0.5) - Math.max(from, bin - 0.5));
    }
    return sum;
  });
  const whole = sums.reduce((sum, one) => sum + one, 0);
  return { hz, levelsDb: sums.map((sum) => 10 * Math.log10(sum / (whole || 1) + 1e-12)) };
}

/** The highest places of a course that stand out on both sides. */
function regionsOf(hz: readonly number[], levels: readonly number[]): Region[] {
  const loudest = Math.max(...levels);
  const regions = levels.flatMap((level, n): Region[] => {
    if (level < loudest - LEAST_DB || level < (levels[n - 1] ?? -Infinity) || level <= (levels[n + 1] ?? -Infinity))
      return [];
    /** Depth of the dip on one side before the curve rises above this level again. */
    const fall = (step: 1 | -1) => {
      let lowest = level;
      for (let at = n + step; at >= 0 && at < levels.length && levels[at]! <= level; at += step)
        lowest = Math.min(lowest, levels[at]!);
      return level - lowest;
    };
    const prominenceDb = Math.min(fall(-1), fall(1));
    if (prominenceDb < PROMINENT_DB) return [];
    const reach = (step: 1 | -1) => {
      let at = n;
      while (levels[at + step] !== undefined && levels[at + step]! > level - EDGE_DB && levels[at + step]! <= level)
        at += step;
      return hz[at]! * 2 ** (step / 6);
    };
    return [{ centreHz: hz[n]!, fromHz: reach(-1), toHz: reach(1), prominenceDb }];
  });
  return regions.sort((a, b) => b.prominenceDb - a.prominenceDb).slice(0, MOST_REGIONS);
}

/** Looks at a whole sound (Welch's method, see `crossSpectra`). */
export function portraitOf(left: Float32Array, right: Float32Array, sampleRateHz: number): Portrait {
  const spectra = crossSpectra(left, right, sampleRateHz);
  const { hz, levelsDb } = thirdsOf(
    spectra.left.map((power, bin) => power + spectra.right[bin]!),
    spectra.binHz,
  );
  const silent = levelsDb.every((level) => level <= -110);
  return { hz, levelsDb, regions: silent ? [] : regionsOf(hz, levelsDb), field: fieldOf(spectra) };
}
