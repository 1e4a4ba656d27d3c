import { kaiser, kaiserBeta, sinc } from '../math/windows';

const TAPS = 24;
const BETWEEN = 3;

/** Frames by which the estimate lags the signal. */
export const TRUE_PEAK_LATENCY = TAPS / 2;

/** Weights of the three points between two samples, [tap][point], each point's summing to 1. */
function buildWeights(): Float64Array {
  const table = new Float64Array(TAPS * BETWEEN);
  for (let point = 0; point < BETWEEN; point++) {
    const weights = Array.from({ length: TAPS }, (_, tap) => {
      const x = tap - TAPS / 2 + (point + 1) / (BETWEEN + 1);
      return sinc(x) * kaiser(x / (TAPS / 2), kaiserBeta(70));
    });
    const sum = weights.reduce((total, weight) => total + weight, 0);
    weights.forEach((weight, tap) => (table[tap * BETWEEN + point] = weight / sum));
  }
  return table;
}

const WEIGHTS = buildWeights();

/** The most by which an inter-sample peak can pass the largest sample around it. */
const HIGHEST_RISE = [0, 1, 2].reduce((most, point) => {
  let sum = 0;
  for (let tap = 0; tap < TAPS; tap++) sum += Math.abs(WEIGHTS[tap * BETWEEN + point]!);
  return Math.max(most, sum);
}, 1.5);

/**
 * Inter-sample peak of one channel: fourfold oversampling as in ITU-R BS.1770-4 annex 2 with a longer interpolation
 * filter, and a parabola through the highest point so that the under-read near the band edge stays below 0.05 dB.
 */
export class TruePeakDetector {
  private readonly ring = new Float64Array(TAPS * 2);
  private index = 0;
  private before = 0;
  private last = 0;
  private loudFrames = 0;

  /**
   * @param floor peaks that cannot reach this are not worked out and read as 0, which saves most of the work on sound
   * far below a ceiling
   */
  constructor(public floor = 0) {}

  reset(): void {
    this.ring.fill(0);
    this.before = 0;
    this.last = 0;
    this.loudFrames = 0;
  }

  /** Takes one sample; returns the largest |value| between the frames TRUE_PEAK_LATENCY ago and the one after it. */
  next(sample: number): number {
    const { ring } = this;
    const index = this.index === 0 ? TAPS - 1 : this.index - 1;
    this.index = index;
    ring[index] = ring[index + TAPS] = sample;
    if (Math.abs(sample) * HIGHEST_RISE >= this.floor) this.loudFrames = TAPS + 1;
    if (this.loudFrames === 0) return 0;
    this.loudFrames--;
    let first = 0;
    let second = 0;
    let third = 0;
    for (let tap = 0, at = 0; tap < TAPS; tap++, at += BETWEEN) {
      const x = ring[index + tap]!;
      first += WEIGHTS[at]! * x;
      second += WEIGHTS[at + 1]! * x;
      third += WEIGHTS[at + 2]! * x;
    }
    const onFrame = ring[index + TAPS / 2]!;
    const { before, last } = this;
    this.before = second;
    this.last = third;
    return Math.max(
      parabolaPeak(before, last, onFrame),
      parabolaPeak(last, onFrame, first),
      parabolaPeak(onFrame, first, second),
      parabolaPeak(first, second, third),
    );
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
