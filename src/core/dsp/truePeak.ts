import { kaiser, kaiserBeta, sinc } from '../math/windows';

/** Points worked out between two samples. */
const BETWEEN = 3;

/** An interpolation filter: weights of the points between two samples, [tap][point], each point's summing to 1. */
class Interpolation {
  readonly weights: Float64Array;
  /** The most by which an inter-sample peak can pass the largest sample around it. */
  readonly highestRise: number;

  /** @param taps even; more of them reach closer to half the rate */
  constructor(
    readonly taps: number,
    attenuationDb: number,
  ) {
    const beta = kaiserBeta(attenuationDb);
    this.weights = new Float64Array(taps * BETWEEN);
    let highest = 1.5;
    for (let point = 0; point < BETWEEN; point++) {
      const weights = Array.from({ length: taps }, (_, tap) => {
        const x = tap - taps / 2 + (point + 1) / (BETWEEN + 1);
        return sinc(x) * kaiser(x / (taps / 2), beta);
      });
      const sum = weights.reduce((total, weight) => total + weight, 0);
      weights.forEach((weight, tap) => (this.weights[tap * BETWEEN + point] = weight / sum));
      highest = Math.max(
        highest,
        weights.reduce((total, weight) => total + Math.abs(weight / sum), 0),
      );
    }
    this.highestRise = highest;
  }
}

/** As the standard's, but longer. */
export const METER = new Interpolation(24, 70);
/**
 * Reaches closer to half the rate, where a peak depends on the filter that asks for it: what must hold under any meter
 * takes the larger of both.
 */
export const SHARP = new Interpolation(48, 50);

/**
 * Inter-sample peak of one channel: fourfold oversampling as in ITU-R BS.1770-4 annex 2 with a longer interpolation
 * filter, and a parabola through the highest point so that the under-read near the band edge stays below 0.05 dB.
 */
export class TruePeakDetector {
  /** Frames by which the estimate lags the signal. */
  readonly latency = METER.taps / 2;
  /** The newest samples, twice, so that they lie in one piece wherever they begin. */
  private readonly ring = new Float64Array(2 * METER.taps);
  private index = 0;
  /** The last two points of the stretch before. */
  private before = 0;
  private last = 0;

  /** Takes one sample; returns the largest |value| between the frames `latency` ago and the one after it. */
  next(sample: number): number {
    const { ring } = this;
    const { weights, taps } = METER;
    const index = this.index === 0 ? taps - 1 : this.index - 1;
    this.index = index;
    ring[index] = ring[index + taps] = sample;
    let first = 0;
    let second = 0;
    let third = 0;
    for (let tap = 0, at = 0; tap < taps; tap++, at += BETWEEN) {
      const x = ring[index + tap]!;
      first += weights[at]! * x;
      second += weights[at + 1]! * x;
      third += weights[at + 2]! * x;
    }
    const onFrame = ring[index + taps / 2]!;
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
