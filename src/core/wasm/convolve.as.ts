// Convolution by parts: transforms of two real sounds at once in single precision, their products, and a direct head.
// Spectra stand in the order that a transform by decimation in frequency leaves them in, bits reversed.

@inline
function complexTimes(re: v128, im: v128, c: v128, s: v128, out: usize, outIm: usize): void {
  v128.store(out, f32x4.sub(f32x4.mul(re, c), f32x4.mul(im, s)));
  v128.store(outIm, f32x4.add(f32x4.mul(re, s), f32x4.mul(im, c)));
}

/** Address of a stage's cosines; its sines follow. */
@inline
function stageAt(twiddles: usize, half: i32): usize {
  return twiddles + (((half - 4) as usize) << 3);
}

const MINUS_TWO = f32x4(1, 1, -1, -1);
const MINUS_ODD = f32x4(1, -1, 1, -1);

/**
 * Stages of a Fourier transform by decimation in frequency, in place: from blocks of 2 x `first` down to those of
 * 2 x `last`; at 2 the last two are done together.
 * @param re,im floats, `size` of each
 * @param twiddles for each stage from 4 up its cosines, then its sines, as floats
 */
export function transformStages(re: usize, im: usize, size: i32, twiddles: usize, first: i32, last: i32): void {
  const bytes = (size as usize) << 2;
  for (let half = first; half >= last && half >= 4; half >>= 1) {
    const cosines = stageAt(twiddles, half);
    const apart = (half as usize) << 2;
    const sines = cosines + apart;
    for (let start: usize = 0; start < bytes; start += 2 * apart) {
      for (let k: usize = 0; k < apart; k += 16) {
        const at = re + start + k;
        const atIm = im + start + k;
        const a = v128.load(at);
        const b = v128.load(at + apart);
        const aIm = v128.load(atIm);
        const bIm = v128.load(atIm + apart);
        v128.store(at, f32x4.add(a, b));
        v128.store(atIm, f32x4.add(aIm, bIm));
        const c = v128.load(cosines + k);
        const s = f32x4.neg(v128.load(sines + k));
        complexTimes(f32x4.sub(a, b), f32x4.sub(aIm, bIm), c, s, at + apart, atIm + apart);
      }
    }
  }
  if (last > 2) return;
  for (let at: usize = 0; at < bytes; at += 16) {
    const x = v128.load(re + at);
    const y = v128.load(im + at);
    const u = f32x4.add(v128.shuffle<f32>(x, x, 0, 1, 0, 1), f32x4.mul(v128.shuffle<f32>(x, x, 2, 3, 2, 3), MINUS_TWO));
    const v = f32x4.add(v128.shuffle<f32>(y, y, 0, 1, 0, 1), f32x4.mul(v128.shuffle<f32>(y, y, 2, 3, 2, 3), MINUS_TWO));
    // A quarter turn back for the last of the four.
    const p = f32x4.replace_lane(u, 3, f32x4.extract_lane(v, 3));
    const q = f32x4.replace_lane(v, 3, -f32x4.extract_lane(u, 3));
    v128.store(
      re + at,
      f32x4.add(v128.shuffle<f32>(p, p, 0, 0, 2, 2), f32x4.mul(v128.shuffle<f32>(p, p, 1, 1, 3, 3), MINUS_ODD)),
    );
    v128.store(
      im + at,
      f32x4.add(v128.shuffle<f32>(q, q, 0, 0, 2, 2), f32x4.mul(v128.shuffle<f32>(q, q, 1, 1, 3, 3), MINUS_ODD)),
    );
  }
}

/** Stages of the inverse by decimation in time, without its factor: from blocks of 2 x `first`, where 1 does two at once, up to those of 2 x `last`. */
export function inverseStages(re: usize, im: usize, size: i32, twiddles: usize, first: i32, last: i32): void {
  const bytes = (size as usize) << 2;
  if (first < 4) {
    for (let at: usize = 0; at < bytes; at += 16) {
      const x = v128.load(re + at);
      const y = v128.load(im + at);
      const u = f32x4.add(
        v128.shuffle<f32>(x, x, 0, 0, 2, 2),
        f32x4.mul(v128.shuffle<f32>(x, x, 1, 1, 3, 3), MINUS_ODD),
      );
      const v = f32x4.add(
        v128.shuffle<f32>(y, y, 0, 0, 2, 2),
        f32x4.mul(v128.shuffle<f32>(y, y, 1, 1, 3, 3), MINUS_ODD),
      );
      const p = f32x4.replace_lane(u, 3, -f32x4.extract_lane(v, 3));
      const q = f32x4.replace_lane(v, 3, f32x4.extract_lane(u, 3));
      v128.store(
        re + at,
        f32x4.add(v128.shuffle<f32>(p, p, 0, 1, 0, 1), f32x4.mul(v128.shuffle<f32>(p, p, 2, 3, 2, 3), MINUS_TWO)),
      );
      v128.store(
        im + at,
        f32x4.add(v128.shuffle<f32>(q, q, 0, 1, 0, 1), f32x4.mul(v128.shuffle<f32>(q, q, 2, 3, 2, 3), MINUS_TWO)),
      );
    }
    first = 4;
  }
  for (let half = first; half <= last; half <<= 1) {
    const cosines = stageAt(twiddles, half);
    const apart = (half as usize) << 2;
    const sines = cosines + apart;
    for (let start: usize = 0; start < bytes; start += 2 * apart) {
      for (let k: usize = 0; k < apart; k += 16) {
        const at = re + start + k;
        const atIm = im + start + k;
        const b = v128.load(at + apart);
        const bIm = v128.load(atIm + apart);
        const c = v128.load(cosines + k);
        const s = v128.load(sines + k);
        const t = f32x4.sub(f32x4.mul(b, c), f32x4.mul(bIm, s));
        const tIm = f32x4.add(f32x4.mul(b, s), f32x4.mul(bIm, c));
        const a = v128.load(at);
        const aIm = v128.load(atIm);
        v128.store(at, f32x4.add(a, t));
        v128.store(atIm, f32x4.add(aIm, tIm));
        v128.store(at + apart, f32x4.sub(a, t));
        v128.store(atIm + apart, f32x4.sub(aIm, tIm));
      }
    }
  }
}

@inline
function mirrored(x: v128): v128 {
  return v128.shuffle<f32>(x, x, 3, 2, 1, 0);
}

/** A block of `partSpectra`, four bins at a time. */
@inline
function partFours(re: usize, im: usize, block: i32, out: usize, half: usize, other: usize): void {
  const bytes = (block as usize) << 2;
  const halves = f32x4.splat(0.5);
  for (let j: usize = 0; j < bytes >> 1; j += 16) {
    const near = bytes + j;
    const far: usize = (bytes << 1) - 16 - j;
    const to = (bytes >> 1) + j;
    const a = v128.load(re + near);
    const b = mirrored(v128.load(re + far));
    const c = v128.load(im + near);
    const d = mirrored(v128.load(im + far));
    v128.store(out + to, f32x4.mul(halves, f32x4.add(a, b)));
    v128.store(out + half + to, f32x4.mul(halves, f32x4.sub(c, d)));
    v128.store(other + to, f32x4.mul(halves, f32x4.add(c, d)));
    v128.store(other + half + to, f32x4.mul(halves, f32x4.sub(b, a)));
  }
}

/** A block of `joinSpectra`, four bins at a time. */
@inline
function joinFours(left: usize, right: usize, block: i32, half: usize, re: usize, im: usize): void {
  const bytes = (block as usize) << 2;
  for (let j: usize = 0; j < bytes >> 1; j += 16) {
    const near = bytes + j;
    const far: usize = (bytes << 1) - 16 - j;
    const from = (bytes >> 1) + j;
    const a = v128.load(left + from);
    const b = v128.load(left + half + from);
    const c = v128.load(right + from);
    const d = v128.load(right + half + from);
    v128.store(re + near, f32x4.sub(a, d));
    v128.store(im + near, f32x4.add(b, c));
    v128.store(re + far, mirrored(f32x4.add(a, d)));
    v128.store(im + far, mirrored(f32x4.sub(c, b)));
  }
}

/**
 * Tells two real sounds apart that were transformed as real and imaginary parts. Of each, half of the bins are kept, real
 * parts, then imaginary ones; in the first stand what lies at 0 Hz and at half the rate.
 * @param out `size` floats for the one, then as many for the other
 */
export function partSpectra(re: usize, im: usize, size: i32, out: usize): void {
  const half = (size as usize) << 1;
  const other = out + 2 * half;
  store<f32>(out, load<f32>(re));
  store<f32>(out + half, load<f32>(re, 4));
  store<f32>(other, load<f32>(im));
  store<f32>(other + half, load<f32>(im, 4));
  // Bins of opposite frequencies stand in blocks that double, mirrored in each.
  for (let block = 2; block < size; block <<= 1) {
    if (block >= 8) {
      partFours(re, im, block, out, half, other);
      continue;
    }
    for (let j = 0; j < block >> 1; j++) {
      const near = ((block + j) as usize) << 2;
      const far = ((2 * block - 1 - j) as usize) << 2;
      const to = (((block >> 1) + j) as usize) << 2;
      const a = load<f32>(re + near);
      const b = load<f32>(re + far);
      const c = load<f32>(im + near);
      const d = load<f32>(im + far);
      store<f32>(out + to, 0.5 * (a + b));
      store<f32>(out + half + to, 0.5 * (c - d));
      store<f32>(other + to, 0.5 * (c + d));
      store<f32>(other + half + to, 0.5 * (b - a));
    }
  }
}

/** The way back: two spectra as `partSpectra` leaves them into one. */
export function joinSpectra(left: usize, right: usize, size: i32, re: usize, im: usize): void {
  const half = (size as usize) << 1;
  store<f32>(re, load<f32>(left));
  store<f32>(re, load<f32>(left + half), 4);
  store<f32>(im, load<f32>(right));
  store<f32>(im, load<f32>(right + half), 4);
  for (let block = 2; block < size; block <<= 1) {
    if (block >= 8) {
      joinFours(left, right, block, half, re, im);
      continue;
    }
    for (let j = 0; j < block >> 1; j++) {
      const near = ((block + j) as usize) << 2;
      const far = ((2 * block - 1 - j) as usize) << 2;
      const from = (((block >> 1) + j) as usize) << 2;
      const a = load<f32>(left + from);
      const b = load<f32>(left + half + from);
      const c = load<f32>(right + from);
      const d = load<f32>(right + half + from);
      store<f32>(re + near, a - d);
      store<f32>(im + near, b + c);
      store<f32>(re + far, a + d);
      store<f32>(im + far, c - b);
    }
  }
}

/**
 * Adds products of spectra, as `partSpectra` leaves them, to another: of what came in so many blocks ago and the part of
 * an impulse that hears it, for some parts in a row.
 * @param slots spectra of both sides of the past, in `places` places that are filled in turn, the newest at `newest`
 * @param ago blocks to the first, @param spectra of the parts
 * @param size of the transform: half as many bins
 */
export function addProducts(
  sum: usize,
  slots: usize,
  places: i32,
  newest: i32,
  side: i32,
  ago: i32,
  spectra: usize,
  parts: i32,
  size: i32,
): void {
  const bytes = (size as usize) << 2;
  for (let part = 0; part < parts; part++) {
    const place = (newest - ago - part + places) % places;
    addProduct(sum, slots + bytes * ((2 * place + side) as usize), spectra + bytes * (part as usize), size);
  }
}

@inline
function addProduct(sum: usize, first: usize, second: usize, size: i32): void {
  const half = (size as usize) << 1;
  const zero = load<f32>(sum) + load<f32>(first) * load<f32>(second);
  const top = load<f32>(sum + half) + load<f32>(first + half) * load<f32>(second + half);
  for (let at: usize = 0; at < half; at += 16) {
    const a = v128.load(first + at);
    const b = v128.load(first + half + at);
    const c = v128.load(second + at);
    const d = v128.load(second + half + at);
    v128.store(sum + at, f32x4.add(v128.load(sum + at), f32x4.sub(f32x4.mul(a, c), f32x4.mul(b, d))));
    v128.store(sum + half + at, f32x4.add(v128.load(sum + half + at), f32x4.add(f32x4.mul(a, d), f32x4.mul(b, c))));
  }
  store<f32>(sum, zero);
  store<f32>(sum + half, top);
}

/**
 * Adds a sound through a short filter, straight: sixteen frames at a time.
 * @param input floats, `taps` of the past ahead of the first frame
 * @param filter floats, the first tap first
 * @param out floats, up to fifteen beyond `frames` of which are written over
 */
export function addDirect(input: usize, filter: usize, taps: i32, out: usize, frames: i32): void {
  for (let i = 0; i < frames; i += 16) {
    const to = out + ((i as usize) << 2);
    let a = v128.load(to);
    let b = v128.load(to, 16);
    let c = v128.load(to, 32);
    let d = v128.load(to, 48);
    let from = input + ((i as usize) << 2);
    let tap = filter;
    for (let t = 0; t < taps; t++, from -= 4, tap += 4) {
      const weight = v128.load32_splat(tap);
      a = f32x4.add(a, f32x4.mul(weight, v128.load(from)));
      b = f32x4.add(b, f32x4.mul(weight, v128.load(from, 16)));
      c = f32x4.add(c, f32x4.mul(weight, v128.load(from, 32)));
      d = f32x4.add(d, f32x4.mul(weight, v128.load(from, 48)));
    }
    v128.store(to, a);
    v128.store(to, b, 16);
    v128.store(to, c, 32);
    v128.store(to, d, 48);
  }
}

/** Adds a block of floats to another. */
export function addFloats(out: usize, block: usize, frames: i32): void {
  let i = 0;
  for (; i + 4 <= frames; i += 4) {
    const at = (i as usize) << 2;
    v128.store(out + at, f32x4.add(v128.load(out + at), v128.load(block + at)));
  }
  for (; i < frames; i++) {
    const at = (i as usize) << 2;
    store<f32>(out + at, load<f32>(out + at) + load<f32>(block + at));
  }
}
