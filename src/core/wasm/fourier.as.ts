/**
 * Complex Fourier transform in place: as `FourierTransform.forward`.
 * @param re,im doubles, `size` of each
 * @param size power of two, 4 and up
 * @param twiddles for each stage but the first its cosines, then its sines, as doubles
 * @param pairs of places to exchange, as whole numbers of 32 bits
 */
export function fourier(re: usize, im: usize, size: i32, twiddles: usize, pairs: usize, exchanges: i32): void {
  for (let n = 0; n < exchanges; n++, pairs += 8) {
    const a = (load<i32>(pairs) as usize) << 3;
    const b = (load<i32>(pairs, 4) as usize) << 3;
    const r = load<f64>(re + a);
    store<f64>(re + a, load<f64>(re + b));
    store<f64>(re + b, r);
    const m = load<f64>(im + a);
    store<f64>(im + a, load<f64>(im + b));
    store<f64>(im + b, m);
  }
  const bytes = (size as usize) << 3;
  for (let at: usize = 0; at < bytes; at += 16) {
    neighbours(re + at);
    neighbours(im + at);
  }
  let half: usize = 16;
  // Stages are done by twos, which halves the passes over memory; of an odd number the first is done alone.
  if ((ctz(size) & 1) == 0) {
    for (let start: usize = 0; start < bytes; start += 2 * half) {
      butterfly(re + start, im + start, half, v128.load(twiddles), v128.load(twiddles, 16));
    }
    twiddles += 2 * half;
    half <<= 1;
  }
  for (; half < bytes; half <<= 2) {
    const next = twiddles + 2 * half;
    for (let start: usize = 0; start < bytes; start += 4 * half) {
      for (let k: usize = 0; k < half; k += 16) twoStages(re + start + k, im + start + k, half, twiddles + k, next + k);
    }
    twiddles = next + 4 * half;
  }
}

/** A stage for two bins and the two that lie `half` bytes on. */
@inline
function butterfly(re: usize, im: usize, half: usize, c: v128, s: v128): void {
  const reB = v128.load(re + half);
  const imB = v128.load(im + half);
  const r = f64x2.add(f64x2.mul(reB, c), f64x2.mul(imB, s));
  const m = f64x2.sub(f64x2.mul(imB, c), f64x2.mul(reB, s));
  const reA = v128.load(re);
  const imA = v128.load(im);
  v128.store(re + half, f64x2.sub(reA, r));
  v128.store(im + half, f64x2.sub(imA, m));
  v128.store(re, f64x2.add(reA, r));
  v128.store(im, f64x2.add(imA, m));
}

/**
 * Two stages in a row for two bins of each quarter of a block of 4 x `half` bytes.
 * @param first,second cosines of the stages for these bins; the sines lie a stage's length on
 */
@inline
function twoStages(re: usize, im: usize, half: usize, first: usize, second: usize): void {
  let c = v128.load(first);
  let s = v128.load(first + half);
  let x = v128.load(re + half);
  let y = v128.load(im + half);
  let r = f64x2.add(f64x2.mul(x, c), f64x2.mul(y, s));
  let m = f64x2.sub(f64x2.mul(y, c), f64x2.mul(x, s));
  x = v128.load(re);
  y = v128.load(im);
  const reA = f64x2.add(x, r);
  const imA = f64x2.add(y, m);
  const reB = f64x2.sub(x, r);
  const imB = f64x2.sub(y, m);
  x = v128.load(re + 3 * half);
  y = v128.load(im + 3 * half);
  r = f64x2.add(f64x2.mul(x, c), f64x2.mul(y, s));
  m = f64x2.sub(f64x2.mul(y, c), f64x2.mul(x, s));
  x = v128.load(re + 2 * half);
  y = v128.load(im + 2 * half);
  const reD = f64x2.sub(x, r);
  const imD = f64x2.sub(y, m);
  x = f64x2.add(x, r);
  y = f64x2.add(y, m);

  c = v128.load(second);
  s = v128.load(second + 2 * half);
  r = f64x2.add(f64x2.mul(x, c), f64x2.mul(y, s));
  m = f64x2.sub(f64x2.mul(y, c), f64x2.mul(x, s));
  v128.store(re, f64x2.add(reA, r));
  v128.store(im, f64x2.add(imA, m));
  v128.store(re + 2 * half, f64x2.sub(reA, r));
  v128.store(im + 2 * half, f64x2.sub(imA, m));

  c = v128.load(second + half);
  s = v128.load(second + 3 * half);
  r = f64x2.add(f64x2.mul(reD, c), f64x2.mul(imD, s));
  m = f64x2.sub(f64x2.mul(imD, c), f64x2.mul(reD, s));
  v128.store(re + half, f64x2.add(reB, r));
  v128.store(im + half, f64x2.add(imB, m));
  v128.store(re + 3 * half, f64x2.sub(reB, r));
  v128.store(im + 3 * half, f64x2.sub(imB, m));
}

/** Sum and difference of two numbers beside one another, in their places. */
@inline
function neighbours(at: usize): void {
  const first = v128.load64_splat(at);
  const second = v128.load64_splat(at + 8);
  v128.store(at, v128.shuffle<f64>(f64x2.add(first, second), f64x2.sub(first, second), 0, 2));
}
