import { kaiser, kaiserBeta, sinc } from '../math/windows';

const TAPS = 24;
const PHASES = 4;

/** Frames by which the estimate lags the signal. */
export const TRUE_PEAK_LATENCY = TAPS / 2;

function buildPhases(): Float64Array[] {
  return Array.from({ length: PHASES }, (_, phase) => {
    const row = Float64Array.from({ length: TAPS }, (_, tap) => {
      const x = tap - TAPS / 2 + phase / PHASES;
      return sinc(x) * kaiser(x / (TAPS / 2), kaiserBeta(70));
    });
    const sum = row.reduce((total, weight) => total + weight, 0);
    return row.map((weight) => weight / sum);
  });
}

const PHASE_TABLE = buildPhases();

/**
 * Inter-sample peak of one channel: fourfold oversampling as in ITU-R BS.1770-4 annex 2 with a longer interpolation
 * filter, and a parabola through the highest point so that the under-read near the band edge stays below 0.05 dB.
 */
export class TruePeakDetector {
  private readonly ring = new Float64Array(TAPS * 2);
  private index = 0;
  private before = 0;
  private last = 0;

  reset(): void {
    this.ring.fill(0);
    this.before = 0;
    this.last = 0;
  }

  /** Takes one sample; returns the largest |value| between the frames TRUE_PEAK_LATENCY ago and the one after it. */
  next(sample: number): number {
    const ring = this.ring;
    this.index = this.index === 0 ? TAPS - 1 : this.index - 1;
    const index = this.index;
    ring[index] = ring[index + TAPS] = sample;
    let highest = 0;
    let a = this.before;
    let b = this.last;
    for (let phase = 0; phase < PHASES; phase++) {
      const row = PHASE_TABLE[phase]!;
      let c = 0;
      for (let tap = 0; tap < TAPS; tap++) c += row[tap]! * ring[index + tap]!;
      const peak = parabolaPeak(a, b, c);
      if (peak > highest) highest = peak;
      a = b;
      b = c;
    }
    this.before = a;
    this.last = b;
    return highest;
  }
}

/** |peak| of the parabola through three equally spaced values when the middle one is an extremum, else |middle|. */
function parabolaPeak(a: number, b: number, c: number): number {
  const magnitude = Math.abs(b);
  const rise = b - a;
  const fall = b - c;
  if (rise * fall <= 0 || rise * b < 0) return magnitude;
  const shift = (c - a) / (2 * (rise + fall));
  return Math.abs(b + 0.25 * (c - a) * shift);
}
