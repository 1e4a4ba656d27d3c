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
const METER = new Interpolation(24, 70);
/** Reaches closer to half the rate, where interpolation filters differ by how much they let through. */
const SHARP = new Interpolation(48, 50);

/**
 * Inter-sample peak of one channel: fourfold oversampling as in ITU-R BS.1770-4 annex 2 with a longer interpolation
 * filter, and a parabola through the highest point so that the under-read near the band edge stays below 0.05 dB. Close
 * to half the rate a peak depends on the filter that asks for it: a strict detector takes the larger of two of them.
 */
export class TruePeakDetector {
  /** Frames by which the estimate lags the signal. */
  readonly latency: number;
  private readonly filters: readonly Interpolation[];
  private readonly length: number;
  private readonly ring: Float64Array;
  /** By filter, the last two points of the stretch before. */
  private readonly before: Float64Array;
  private readonly last: Float64Array;
  private readonly highestRise: number;
  private index = 0;
  private loudFrames = 0;

  /**
   * @param strict for what must hold under any meter; costs three times as much
   * @param floor peaks that cannot reach this are not worked out and read as 0, which saves most of the work on sound
   * far below a ceiling
   */
  constructor(
    strict = false,
    public floor = 0,
  ) {
    this.filters = strict ? [METER, SHARP] : [METER];
    this.length = Math.max(...this.filters.map(({ taps }) => taps));
    this.latency = this.length / 2;
    this.ring = new Float64Array(this.length * 2);
    this.before = new Float64Array(this.filters.length);
    this.last = new Float64Array(this.filters.length);
    this.highestRise = Math.max(...this.filters.map(({ highestRise }) => highestRise));
  }

  reset(): void {
    this.ring.fill(0);
    this.before.fill(0);
    this.last.fill(0);
    this.loudFrames = 0;
  }

  /** Takes one sample; returns the largest |value| between the frames `latency` ago and the one after it. */
  next(sample: number): number {
    const { ring, length } = this;
    const index = this.index === 0 ? length - 1 : this.index - 1;
    this.index = index;
    ring[index] = ring[index + length] = sample;
    if (Math.abs(sample) * this.highestRise >= this.floor) this.loudFrames = length + 1;
    if (this.loudFrames === 0) return 0;
    this.loudFrames--;
    const middle = index + length / 2;
    let peak = this.peakBy(0, middle);
    for (let filter = 1; filter < this.filters.length; filter++) peak = Math.max(peak, this.peakBy(filter, middle));
    return peak;
  }

  private peakBy(place: number, middle: number): number {
    const { ring } = this;
    const { weights, taps } = this.filters[place]!;
    const start = middle - taps / 2;
    let first = 0;
    let second = 0;
    let third = 0;
    for (let tap = 0, at = 0; tap < taps; tap++, at += BETWEEN) {
      const x = ring[start + tap]!;
      first += weights[at]! * x;
      second += weights[at + 1]! * x;
      third += weights[at + 2]! * x;
    }
    const onFrame = ring[middle]!;
    const before = this.before[place]!;
    const last = this.last[place]!;
    this.before[place] = second;
    this.last[place] = third;
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
