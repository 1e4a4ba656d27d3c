import { FourierTransform } from '../dsp/fft';

/** Power spectrum of the newest part of a ring of sound, with a Hann window; reused from frame to frame. */
export class SpectrumReader {
  readonly decibels: Float64Array;
  private readonly transform: FourierTransform;
  private readonly window: Float64Array;
  private readonly re: Float64Array;
  private readonly im: Float64Array;

  /** @param size frames looked at, a power of two; a full-scale sine reads 0 dB */
  constructor(private readonly size = 4096) {
    this.transform = new FourierTransform(size);
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));
    this.re = new Float64Array(size);
    this.im = new Float64Array(size);
    this.decibels = new Float64Array(size / 2);
  }

  /**
   * Both sides are transformed at once, as real and imaginary parts, and their powers averaged.
   * @param end frames written to the rings so far; their length is a power of two
   */
  read(left: Float32Array, right: Float32Array, end: number): Float64Array {
    const { size, re, im, window, decibels } = this;
    const mask = left.length - 1;
    for (let n = 0; n < size; n++) {
      const at = (end - size + n) & mask;
      re[n] = left[at]! * window[n]!;
      im[n] = right[at]! * window[n]!;
    }
    this.transform.forward(re, im);
    const scale = 4 / size;
    for (let bin = 0; bin < size / 2; bin++) {
      const mirror = (size - bin) % size;
      const sumRe = 0.5 * (re[bin]! + re[mirror]!);
      const sumIm = 0.5 * (im[bin]! - im[mirror]!);
      const otherRe = 0.5 * (im[bin]! + im[mirror]!);
      const otherIm = 0.5 * (re[mirror]! - re[bin]!);
      const power = 0.5 * (sumRe * sumRe + sumIm * sumIm + otherRe * otherRe + otherIm * otherIm);
      decibels[bin] = 10 * Math.log10(power * scale * scale + 1e-14);
    }
    return decibels;
  }
}
