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
  for (let half: usize = 16; half < bytes; half <<= 1) {
    const sines = twiddles + half;
    for (let start: usize = 0; start < bytes; start += 2 * half) {
      for (let k: usize = 0; k < half; k += 16) {
        const c = v128.load(twiddles + k);
        const s = v128.load(sines + k);
        const reA = re + start + k;
        const imA = im + start + k;
        const reB = v128.load(reA + half);
        const imB = v128.load(imA + half);
        const r = f64x2.add(f64x2.mul(reB, c), f64x2.mul(imB, s));
        const m = f64x2.sub(f64x2.mul(imB, c), f64x2.mul(reB, s));
        const reOld = v128.load(reA);
        const imOld = v128.load(imA);
        v128.store(reA + half, f64x2.sub(reOld, r));
        v128.store(imA + half, f64x2.sub(imOld, m));
        v128.store(reA, f64x2.add(reOld, r));
        v128.store(imA, f64x2.add(imOld, m));
      }
    }
    twiddles += 2 * half;
  }
}

/** Sum and difference of two numbers beside one another, in their places. */
@inline
function neighbours(at: usize): void {
  const first = v128.load64_splat(at);
  const second = v128.load64_splat(at + 8);
  v128.store(at, v128.shuffle<f64>(f64x2.add(first, second), f64x2.sub(first, second), 0, 2));
}
