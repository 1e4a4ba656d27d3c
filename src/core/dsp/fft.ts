import { cos, sin } from '../math/elementary';

const TWO_PI = 6.283185307179586;

/** Complex Fourier transform of a power-of-two length, in place (Cooley and Tukey, 1965). */
export class FourierTransform {
  private readonly cosines: Float64Array;
  private readonly sines: Float64Array;
  private readonly reversed: Uint32Array;

  /** @param size power of two, 2 and up */
  constructor(readonly size: number) {
    if (size < 2 || (size & (size - 1)) !== 0) throw new Error(`A transform's size is a power of two, not ${size}`);
    this.cosines = Float64Array.from({ length: size / 2 }, (_, i) => cos((TWO_PI * i) / size));
    this.sines = Float64Array.from({ length: size / 2 }, (_, i) => sin((TWO_PI * i) / size));
    this.reversed = new Uint32Array(size);
    for (let i = 1; i < size; i++) this.reversed[i] = (this.reversed[i >> 1]! >> 1) | (i & 1 ? size >> 1 : 0);
  }

  forward(re: Float64Array, im: Float64Array): void {
    const { size, cosines, sines, reversed } = this;
    for (let i = 0; i < size; i++) {
      const j = reversed[i]!;
      if (j <= i) continue;
      const r = re[i]!;
      re[i] = re[j]!;
      re[j] = r;
      const m = im[i]!;
      im[i] = im[j]!;
      im[j] = m;
    }
    for (let half = 1; half < size; half *= 2) {
      const stride = size / (2 * half);
      for (let start = 0; start < size; start += 2 * half) {
        for (let k = 0; k < half; k++) {
          const c = cosines[k * stride]!;
          const s = sines[k * stride]!;
          const a = start + k;
          const b = a + half;
          const r = re[b]! * c + im[b]! * s;
          const m = im[b]! * c - re[b]! * s;
          re[b] = re[a]! - r;
          im[b] = im[a]! - m;
          re[a] = re[a]! + r;
          im[a] = im[a]! + m;
        }
      }
    }
  }
}
