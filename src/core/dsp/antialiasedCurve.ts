import { cos, log, sin } from '../math/elementary';

/** A memoryless curve with its first and second antiderivatives. */
export interface SmoothedCurve {
  readonly at: (x: number) => number;
  readonly first: (x: number) => number;
  readonly second: (x: number) => number;
}

const HALF_PI = 1.5707963267948966;

const soft: SmoothedCurve = {
  at: (x) => x / Math.sqrt(1 + x * x),
  first: (x) => Math.sqrt(1 + x * x) - 1,
  second: (x) => {
    const m = x < 0 ? -x : x;
    const root = Math.sqrt(1 + m * m);
    const value = 0.5 * (m * root + log(m + root)) - m;
    return x < 0 ? -value : value;
  },
};

/** Bends from the very start. */
const gradual: SmoothedCurve = {
  at: (x) => x / (1 + (x < 0 ? -x : x)),
  first: (x) => {
    const m = x < 0 ? -x : x;
    return m - log(1 + m);
  },
  second: (x) => {
    const m = x < 0 ? -x : x;
    const value = 0.5 * m * m + m - (1 + m) * log(1 + m);
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
    const value = m <= 1 ? (m * m * m) / 6 : 1 / 6 + 0.5 * (m - 1) + 0.5 * (m - 1) * (m - 1);
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
  at: (x) => (x >= 0 ? soft.at(x) : LOWER * soft.at(x / LOWER)),
  first: (x) => (x >= 0 ? soft.first(x) : LOWER * LOWER * soft.first(x / LOWER)),
  second: (x) => (x >= 0 ? soft.second(x) : LOWER * LOWER * LOWER * soft.second(x / LOWER)),
};

export const SMOOTHED_CURVES = { soft, hard, fold, asymmetric, tape: gradual } as const;
export type SmoothedCurveName = keyof typeof SMOOTHED_CURVES;

/** Steps below this part of 1 + |x| count as none: there the curve is as good as straight. */
const STEP = 1e-4;

/**
 * A curve applied with second-order antiderivative antialiasing (Bilbao, Esqueda, Parker and Valimaki,
 * "Antiderivative antialiasing for memoryless nonlinearities", 2017): the curve is averaged along straight lines
 * between samples with a triangular weight. Delays by one sample.
 */
export class AntialiasedCurve {
  private curve: SmoothedCurve = soft;
  private x1 = 0;
  private x2 = 0;
  private slope1 = 0;

  setCurve(curve: SmoothedCurve): void {
    this.curve = curve;
    this.slope1 = this.meanOfFirst(this.x1, this.x2);
  }

  reset(): void {
    this.x1 = this.x2 = 0;
    this.slope1 = this.curve.first(0);
  }

  next(x: number): number {
    const { curve, x1, x2 } = this;
    const slope = this.meanOfFirst(x, x1);
    const least = STEP * (1 + (x1 < 0 ? -x1 : x1));
    const span = x - x2;
    let y: number;
    if (span > least || span < -least) {
      y = (2 * (slope - this.slope1)) / span;
    } else {
      const middle = 0.5 * (x + x2);
      const away = middle - x1;
      if (away > least || away < -least) {
        y = (2 / away) * (curve.first(middle) + (curve.second(x1) - curve.second(middle)) / away);
      } else {
        y = curve.at(0.5 * (middle + x1));
      }
    }
    this.x2 = x1;
    this.x1 = x;
    this.slope1 = slope;
    return y;
  }

  /** The mean of the first antiderivative between two points. */
  private meanOfFirst(a: number, b: number): number {
    const span = a - b;
    const least = STEP * (1 + (b < 0 ? -b : b));
    if (span > least || span < -least) return (this.curve.second(a) - this.curve.second(b)) / span;
    return this.curve.first(0.5 * (a + b));
  }
}
