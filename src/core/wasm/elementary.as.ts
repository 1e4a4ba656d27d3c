// Elementary functions, as in core/math/elementary.ts.

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
