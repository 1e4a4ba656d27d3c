import { HALF_PI } from './circle';

/**
 * Elementary functions whose results are the same bits in every JavaScript engine.
 *
 * Built only from IEEE 754 basic operations and `Math.sqrt`, which agree everywhere; the built-in transcendental
 * functions differ between engines in the last place. Anything that can reach a sample uses these.
 *
 * Sources: argument reduction and minimax coefficients of the Freely Distributable LIBM (K. C. Ng, Sun Microsystems,
 * 1993), distributed under the terms "Permission to use, copy, modify, and distribute this software is freely granted,
 * provided that this notice is preserved"; two-part pi/2 reduction after Cody and Waite (1980).
 */

const LN2_HIGH = 6.9314718036912381649e-1;
const LN2_LOW = 1.90821492927058770002e-10;
const INVERSE_LN2 = 1.442695040888963387;

const HALF_PI_1 = 1.57079632673412561417;
const HALF_PI_1_TAIL = 6.07710050650619224932e-11;
const HALF_PI_2 = 6.0771005063039659766e-11;
const HALF_PI_2_TAIL = 2.02226624879595063154e-21;
const TWO_OVER_PI = 6.36619772367581382433e-1;

const scratch = new Float64Array(1);
const words = new Uint32Array(scratch.buffer);
const HIGH_WORD = new Uint8Array(new Uint32Array([1]).buffer)[0] === 1 ? 1 : 0;

/** 2 to the power of an integer between -1022 and 1023, exactly. */
function powerOfTwo(exponent: number): number {
  words[HIGH_WORD] = (exponent + 1023) << 20;
  words[1 - HIGH_WORD] = 0;
  return scratch[0]!;
}

function scaleByPowerOfTwo(value: number, exponent: number): number {
  if (exponent > 1023) return value * powerOfTwo(1023) * powerOfTwo(Math.min(1023, exponent - 1023));
  if (exponent < -1022) return value * powerOfTwo(-1022) * powerOfTwo(Math.max(-1022, exponent + 1022));
  return value * powerOfTwo(exponent);
}

function sineKernel(x: number, tail: number): number {
  const z = x * x;
  const v = z * x;
  const r =
    8.33333333332248946124e-3 +
    z *
      (-1.98412698298579493134e-4 +
        z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)));
  return x - (z * (0.5 * tail - v * r) - tail - v * -1.66666666666666324348e-1);
}

function cosineKernel(x: number, tail: number): number {
  const z = x * x;
  const r =
    z *
    (4.16666666666666019037e-2 +
      z *
        (-1.38888888888741095749e-3 +
          z *
            (2.48015872894767294178e-5 +
              z * (-2.75573143513906633035e-7 + z * (2.0875723212981748279e-9 + z * -1.13596475577881948265e-11)))));
  const half = 0.5 * z;
  const w = 1 - half;
  return w + (1 - w - half + (z * r - x * tail));
}

const reduced = new Float64Array(2);

/** Reduces x to within pi/4 of a multiple of pi/2; returns the multiple modulo 4 and leaves value and tail behind. */
function reduceToQuarter(x: number): number {
  const n = Math.round(x * TWO_OVER_PI);
  if (n === 0) {
    reduced[0] = x;
    reduced[1] = 0;
    return 0;
  }
  const first = x - n * HALF_PI_1;
  let w = n * HALF_PI_1_TAIL;
  let y = first - w;
  let r = first;
  if (Math.abs(y) < Math.abs(x) * 1e-5) {
    w = n * HALF_PI_2;
    r = first - w;
    w = n * HALF_PI_2_TAIL - (first - r - w);
    y = r - w;
  }
  reduced[0] = y;
  reduced[1] = r - y - w;
  return n & 3;
}

/** Sine of x in radians, |x| up to 1e5; within 1 ulp of correct rounding there. */
export function sin(x: number): number {
  switch (reduceToQuarter(x)) {
    case 0:
      return sineKernel(reduced[0]!, reduced[1]!);
    case 1:
      return cosineKernel(reduced[0]!, reduced[1]!);
    case 2:
      return -sineKernel(reduced[0]!, reduced[1]!);
    default:
      return -cosineKernel(reduced[0]!, reduced[1]!);
  }
}

/** Cosine of x in radians, |x| up to 1e5; within 1 ulp of correct rounding there. */
export function cos(x: number): number {
  switch (reduceToQuarter(x)) {
    case 0:
      return cosineKernel(reduced[0]!, reduced[1]!);
    case 1:
      return -sineKernel(reduced[0]!, reduced[1]!);
    case 2:
      return -cosineKernel(reduced[0]!, reduced[1]!);
    default:
      return sineKernel(reduced[0]!, reduced[1]!);
  }
}

/** Tangent of x in radians, |x| up to 1e5; a quotient of the two above, within 2 ulp away from its poles. */
export function tan(x: number): number {
  return sin(x) / cos(x);
}

/** An angle of at most an eighth of a turn, from its tangent: halved twice, then by the series of Gregory. */
function smallAngle(tangent: number): number {
  const half = tangent / (1 + Math.sqrt(1 + tangent * tangent));
  const x = half / (1 + Math.sqrt(1 + half * half));
  const square = x * x;
  let sum = 0;
  for (let n = 23; n > 0; n -= 2) sum = 1 / n - square * sum;
  return 4 * x * sum;
}

/** The angle of a point from the x axis, -pi to pi; its error is below 3e-15. */
export function atan2(y: number, x: number): number {
  const [rise, run] = [Math.abs(y), Math.abs(x)];
  if (rise === 0 && run === 0) return 0;
  const first = rise <= run ? smallAngle(rise / run) : HALF_PI - smallAngle(run / rise);
  const upper = x < 0 ? Math.PI - first : first;
  return y < 0 ? -upper : upper;
}

/** e to the power of x; 0 below -745.2, Infinity above 709.8. */
export function exp(x: number): number {
  if (x !== x) return x;
  if (x > 709.782712893383973096) return Infinity;
  if (x < -745.13321910194110842) return 0;
  let k = 0;
  let high = x;
  let low = 0;
  let reducedX = x;
  if (Math.abs(x) > 0.34657359027997264) {
    k = Math.round(INVERSE_LN2 * x);
    high = x - k * LN2_HIGH;
    low = k * LN2_LOW;
    reducedX = high - low;
  }
  const t = reducedX * reducedX;
  const c =
    reducedX -
    t *
      (1.66666666666666019037e-1 +
        t *
          (-2.77777777770155933842e-3 +
            t * (6.61375632143793436117e-5 + t * (-1.6533902205465251539e-6 + t * 4.13813679705723846039e-8))));
  if (k === 0) return 1 - ((reducedX * c) / (c - 2) - reducedX);
  const y = 1 - (low - (reducedX * c) / (2 - c) - high);
  return scaleByPowerOfTwo(y, k);
}

/** Natural logarithm of x; -Infinity at 0, NaN below 0. */
export function log(x: number): number {
  if (x !== x || x < 0) return NaN;
  if (x === 0) return -Infinity;
  if (x === Infinity) return Infinity;
  let k = 0;
  let value = x;
  if (value < 2.2250738585072014e-308) {
    value *= 18014398509481984;
    k -= 54;
  }
  scratch[0] = value;
  const highWord = words[HIGH_WORD]!;
  k += (highWord >>> 20) - 1023;
  const mantissaHigh = highWord & 0x000fffff;
  const i = (mantissaHigh + 0x95f64) & 0x100000;
  words[HIGH_WORD] = mantissaHigh | (i ^ 0x3ff00000);
  k += i >>> 20;
  const f = scratch[0]! - 1;
  if (f === 0) return k === 0 ? 0 : k * LN2_HIGH + k * LN2_LOW;
  const s = f / (2 + f);
  const z = s * s;
  const w = z * z;
  const t1 = w * (3.999999999940941908e-1 + w * (2.222219843214978396e-1 + w * 1.531383769920937332e-1));
  const t2 =
    z *
    (6.66666666666673513e-1 +
      w * (2.857142874366239149e-1 + w * (1.818357216161805012e-1 + w * 1.479819860511658591e-1)));
  const r = t2 + t1;
  const half = 0.5 * f * f;
  return k * LN2_HIGH - (half - (s * (half + r) + k * LN2_LOW) - f);
}

/** x to the power of y for x > 0, as exp(y log x): relative error below about 1e-13 for the ranges of audio. */
export function pow(x: number, y: number): number {
  if (y === 0) return 1;
  if (x === 0) return y > 0 ? 0 : Infinity;
  return exp(y * log(x));
}

const LN10_OVER_20 = 0.1151292546497022842;

/** Gain factor of a level in decibels; exactly 1 at 0 dB, exactly 0 at -Infinity. */
export function dbToGain(db: number): number {
  if (db === 0) return 1;
  if (db === -Infinity) return 0;
  return exp(db * LN10_OVER_20);
}

/** Gain factor of a level whose knob says silence at -60 dB, its lowest. */
export const gainOrSilence = (db: number) => (db <= -60 ? 0 : dbToGain(db));

/** Level in decibels of a gain factor; -Infinity at 0. */
export function gainToDb(gain: number): number {
  return log(gain) / LN10_OVER_20;
}
