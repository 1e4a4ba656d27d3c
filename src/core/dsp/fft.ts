import { TWO_PI } from '../math/circle';
import { cos, sin } from '../math/elementary';

/** Stages up to this length are done stretch by stretch, which stay near at hand. */
const STRETCH = 4096;

/** Complex Fourier transform of a power-of-two length, in place (Cooley and Tukey, 1965). */
export class FourierTransform {
  /** For each stage its turns one after another: those of the stage of half-length h from h - 1 on. */
  private readonly cosines: Float64Array;
  private readonly sines: Float64Array;
  private readonly reversed: Uint32Array;

  /** @param size power of two, 2 and up */
  constructor(readonly size: number) {
    if (size < 2 || (size & (size - 1)) !== 0) throw new Error(`A transform's size is a power of two, not ${size}`);
    this.cosines = new Float64Array(size - 1);
    this.sines = new Float64Array(size - 1);
    const last = size / 2;
    for (let k = 0; k < last; k++) {
      this.cosines[last - 1 + k] = cos((TWO_PI * k) / size);
      this.sines[last - 1 + k] = sin((TWO_PI * k) / size);
    }
    for (let half = last / 2; half >= 1; half /= 2) {
      for (let k = 0; k < half; k++) {
        this.cosines[half - 1 + k] = this.cosines[2 * half - 1 + 2 * k]!;
        this.sines[half - 1 + k] = this.sines[2 * half - 1 + 2 * k]!;
      }
    }
    this.reversed = new Uint32Array(size);
    for (let i = 1; i < size; i++) this.reversed[i] = (this.reversed[i >> 1]! >> 1) | (i & 1 ? size >> 1 : 0);
  }

  forward(re: Float64Array, im: Float64Array): void {
    const { size, reversed } = this;
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
    const stretch = Math.min(size, STRETCH);
    for (let from = 0; from < size; from += stretch) {
      for (let half = 1; half < stretch; half *= 2) this.stage(re, im, half, from, from + stretch);
    }
    for (let half = stretch; half < size; half *= 2) this.stage(re, im, half, 0, size);
  }

  private stage(re: Float64Array, im: Float64Array, half: number, from: number, to: number): void {
    const { cosines, sines } = this;
    for (let start = from; start < to; start += 2 * half) {
      for (let k = 0; k < half; k++) {
        const c = cosines[half - 1 + k]!;
        const s = sines[half - 1 + k]!;
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
