// Elementary functions, as in core/math/elementary.ts.

export const HALF_PI: f64 = 1.5707963267948966;
const HALF_PI_1: f64 = 1.57079632673412561417;
const HALF_PI_1_TAIL: f64 = 6.07710050650619224932e-11;
const HALF_PI_2: f64 = 6.0771005063039659766e-11;
const HALF_PI_2_TAIL: f64 = 2.02226624879595063154e-21;
const TWO_OVER_PI: f64 = 6.36619772367581382433e-1;

function sineKernel(x: f64, tail: f64): f64 {
  const z = x * x;
  const v = z * x;
  const r =
    8.33333333332248946124e-3 +
    z *
      (-1.98412698298579493134e-4 +
        z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)));
  return x - (z * (0.5 * tail - v * r) - tail - v * -1.66666666666666324348e-1);
}

function cosineKernel(x: f64, tail: f64): f64 {
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

let reduced: f64 = 0;
let reducedTail: f64 = 0;

function reduceToQuarter(x: f64): i32 {
  const n = Math.round(x * TWO_OVER_PI);
  if (n == 0) {
    reduced = x;
    reducedTail = 0;
    return 0;
  }
  const first = x - n * HALF_PI_1;
  let w = n * HALF_PI_1_TAIL;
  let y = first - w;
  let r = first;
  if (abs(y) < abs(x) * 1e-5) {
    w = n * HALF_PI_2;
    r = first - w;
    w = n * HALF_PI_2_TAIL - (first - r - w);
    y = r - w;
  }
  reduced = y;
  reducedTail = r - y - w;
  return (n as i32) & 3;
}

export function sin(x: f64): f64 {
  const quarter = reduceToQuarter(x);
  if (quarter == 0) return sineKernel(reduced, reducedTail);
  if (quarter == 1) return cosineKernel(reduced, reducedTail);
  if (quarter == 2) return -sineKernel(reduced, reducedTail);
  return -cosineKernel(reduced, reducedTail);
}

export function cos(x: f64): f64 {
  const quarter = reduceToQuarter(x);
  if (quarter == 0) return cosineKernel(reduced, reducedTail);
  if (quarter == 1) return -sineKernel(reduced, reducedTail);
  if (quarter == 2) return -cosineKernel(reduced, reducedTail);
  return sineKernel(reduced, reducedTail);
}

const LN2_HIGH: f64 = 6.9314718036912381649e-1;
const LN2_LOW: f64 = 1.90821492927058770002e-10;
const INVERSE_LN2: f64 = 1.442695040888963387;
const LN10_OVER_20: f64 = 0.1151292546497022842;

function powerOfTwo(exponent: i32): f64 {
  return reinterpret<f64>(((exponent + 1023) as u64) << 52);
}

function scaleByPowerOfTwo(value: f64, exponent: i32): f64 {
  if (exponent > 1023) return value * powerOfTwo(1023) * powerOfTwo(min(1023, exponent - 1023));
  if (exponent < -1022) return value * powerOfTwo(-1022) * powerOfTwo(max(-1022, exponent + 1022));
  return value * powerOfTwo(exponent);
}

export function exp(x: f64): f64 {
  if (x != x) return x;
  if (x > 709.782712893383973096) return Infinity;
  if (x < -745.13321910194110842) return 0;
  let k: i32 = 0;
  let high = x;
  let low: f64 = 0;
  let reducedX = x;
  if (abs(x) > 0.34657359027997264) {
    const whole = Math.round(INVERSE_LN2 * x);
    k = whole as i32;
    high = x - whole * LN2_HIGH;
    low = whole * LN2_LOW;
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
  if (k == 0) return 1 - ((reducedX * c) / (c - 2) - reducedX);
  const y = 1 - (low - (reducedX * c) / (2 - c) - high);
  return scaleByPowerOfTwo(y, k);
}

/** For x above 0 and below infinity. */
export function log(x: f64): f64 {
  let k: i32 = 0;
  let value = x;
  if (value < 2.2250738585072014e-308) {
    value *= 18014398509481984;
    k -= 54;
  }
  const bits = reinterpret<u64>(value);
  const highWord = (bits >> 32) as u32;
  k += ((highWord >> 20) as i32) - 1023;
  const mantissaHigh = highWord & 0x000fffff;
  const i = (mantissaHigh + 0x95f64) & 0x100000;
  k += (i >> 20) as i32;
  const f = reinterpret<f64>((bits & 0xffffffff) | (((mantissaHigh | (i ^ 0x3ff00000)) as u64) << 32)) - 1;
  const whole = k as f64;
  if (f == 0) return k == 0 ? 0 : whole * LN2_HIGH + whole * LN2_LOW;
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
  return whole * LN2_HIGH - (half - (s * (half + r) + whole * LN2_LOW) - f);
}

export function gainToDb(gain: f64): f64 {
  return log(gain) / LN10_OVER_20;
}
