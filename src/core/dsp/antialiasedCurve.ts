import { cos, sin } from '../math/elementary';

/** A memoryless curve with its first and second antiderivatives. */
export interface SmoothedCurve {
  readonly at: (x: number) => number;
  readonly first: (x: number) => number;
  readonly second: (x: number) => number;
}

const HALF_PI = 1.5707963267948966;

/** x - 4/27 x^3 up to 1.5, where it reaches 1 and stays. */
const soft: SmoothedCurve = {
  at: (x) => (x >= 1.5 ? 1 : x <= -1.5 ? -1 : x - (4 / 27) * x * x * x),
  first: (x) => {
    const m = x < 0 ? -x : x;
    if (m >= 1.5) return m - 0.5625;
    const square = m * m;
    return square * (0.5 - square * (1 / 27));
  },
  second: (x) => {
    const m = x < 0 ? -x : x;
    const square = m * m;
    const value = m >= 1.5 ? 0.5 * square - 0.5625 * m + 0.225 : m * square * (1 / 6 - square * (1 / 135));
    return x < 0 ? -value : value;
  },
};

/** x - 1/4 x |x| up to 2, where it reaches 1 and stays: bends from the very start. */
const gradual: SmoothedCurve = {
  at: (x) => (x >= 2 ? 1 : x <= -2 ? -1 : x - 0.25 * x * (x < 0 ? -x : x)),
  first: (x) => {
    const m = x < 0 ? -x : x;
    return m >= 2 ? m - 2 / 3 : m * m * (0.5 - m * (1 / 12));
  },
  second: (x) => {
    const m = x < 0 ? -x : x;
    const value = m >= 2 ? 0.5 * m * m - (2 / 3) * m + 1 / 3 : m * m * m * (1 / 6 - m * (1 / 48));
    return x < 0 ? -value : value;
  },
};

const hard: SmoothedCurve = {
  at: (x) => (x > 1 ? 1 : x < -1 ? -1 : x),
  first: (x) => {
    const m = x < 0 ? -x : x;
    return m <= 1 ? 0.5 * m * m : m - 0.5;
  },
  second: (x) => {
    const m = x < 0 ? -x : x;
    const value = m <= 1 ? m * m * m * (1 / 6) : 1 / 6 + 0.5 * (m - 1) + 0.5 * (m - 1) * (m - 1);
    return x < 0 ? -value : value;
  },
};

/** A sine, held at full scale after it has folded twice. */
const FOLD_END = 5 * HALF_PI;
const fold: SmoothedCurve = {
  at: (x) => (x >= FOLD_END ? 1 : x <= -FOLD_END ? -1 : sin(x)),
  first: (x) => {
    const past = (x < 0 ? -x : x) - FOLD_END;
    return past > 0 ? 1 + past : 1 - cos(x);
  },
  second: (x) => {
    const m = x < 0 ? -x : x;
    const past = m - FOLD_END;
    const value = past > 0 ? FOLD_END - 1 + past + 0.5 * past * past : m - sin(m);
    return x < 0 ? -value : value;
  },
};

/** Soft above, and sooner below: even harmonics. */
const LOWER = 0.6;
const asymmetric: SmoothedCurve = {
  at: (x) => (x >= 0 ? soft.at(x) : LOWER * soft.at(x * (1 / LOWER))),
  first: (x) => (x >= 0 ? soft.first(x) : LOWER * LOWER * soft.first(x * (1 / LOWER))),
  second: (x) => (x >= 0 ? soft.second(x) : LOWER * LOWER * LOWER * soft.second(x * (1 / LOWER))),
};

export const SMOOTHED_CURVES = { soft, hard, fold, asymmetric, tape: gradual } as const;
export type SmoothedCurveName = keyof typeof SMOOTHED_CURVES;

/** The largest |output| of a curve for inputs up to `level`. */
export function reachOf(curve: SmoothedCurveName, level: number): number {
  return curve === 'fold' && level >= HALF_PI ? 1 : Math.abs(SMOOTHED_CURVES[curve].at(level));
}

/** Steps below this part of 1 + |x| count as none: there the curve is as good as straight. */
const STEP = 1e-4;

/** Mean of the first antiderivative of a curve between its last two samples. */
export function meanBetween({ first, second }: SmoothedCurve, x1: number, x2: number): number {
  const span = x1 - x2;
  const apart = Math.abs(span) > STEP * (1 + Math.abs(x2));
  return apart ? (second(x1) - second(x2)) / span : first(0.5 * (x1 + x2));
}

/**
 * A curve applied with second-order antiderivative antialiasing (Bilbao, Esqueda, Parker and Valimaki,
 * "Antiderivative antialiasing for memoryless nonlinearities", 2017): the curve is averaged along straight lines
 * between samples with a triangular weight. Delays by one sample.
 */
export class AntialiasedCurve {
  private curve: SmoothedCurve = soft;
  private x1 = 0;
  private x2 = 0;
  /** Mean of the first antiderivative between the last two samples. */
  private mean1 = 0;

  setCurve(curve: SmoothedCurve): void {
    this.curve = curve;
    this.mean1 = meanBetween(curve, this.x1, this.x2);
  }

  /** Shapes `frames` samples of `block` in place. */
  process(block: Float64Array, frames: number): void {
    const { at, first, second } = this.curve;
    let { x1, x2, mean1 } = this;
    let second1 = second(x1);
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      const least = STEP * (1 + (x1 < 0 ? -x1 : x1));
      const step = x - x1;
      const secondNow = second(x);
      const mean = step > least || step < -least ? (secondNow - second1) / step : first(0.5 * (x + x1));
      const span = x - x2;
      if (span > least || span < -least) {
        block[i] = (2 * (mean - mean1)) / span;
      } else {
        const middle = 0.5 * (x + x2);
        const away = middle - x1;
        block[i] =
          away > least || away < -least
            ? (2 / away) * (first(middle) + (second1 - second(middle)) / away)
            : at(0.5 * (middle + x1));
      }
      x2 = x1;
      x1 = x;
      mean1 = mean;
      second1 = secondNow;
    }
    this.x1 = x1;
    this.x2 = x2;
    this.mean1 = mean1;
  }
}
