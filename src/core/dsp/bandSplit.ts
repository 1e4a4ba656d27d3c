import { sin } from '../math/elementary';
import { FourierTransform } from './fft';

const PI = 3.141592653589793;
/** Bins over which the edges of the band fall off. */
const EDGE_BINS = 2;

/**
 * How much of a frequency belongs to the band: 1 inside, 0 outside, over raised-cosine edges of a few bins.
 * @param window length of the transform
 */
export function bandShare(hz: number, lowHz: number, highHz: number, sampleRate: number, window: number): number {
  const edge = (EDGE_BINS * sampleRate) / window;
  return rise((hz - lowHz) / edge) * rise((highHz - hz) / edge);
}

function rise(x: number): number {
  return x <= -0.5 ? 0 : x >= 0.5 ? 1 : 0.5 + 0.5 * sin(PI * x);
}

/**
 * Takes a band out of a stereo sound with linear phase, by short-time transform with root-Hann windows that overlap
 * by half (Allen and Rabiner, "A unified approach to short-time Fourier analysis and synthesis", 1977); what is left is
 * the sound less the band, so that both together are the sound itself. Both channels share one complex transform.
 * Late by `window` frames; a longer window cuts sharper and smears more.
 */
export class BandSplit {
  readonly bandLeft: Float64Array;
  readonly bandRight: Float64Array;
  readonly restLeft: Float64Array;
  readonly restRight: Float64Array;
  private readonly transform: FourierTransform;
  private readonly shape: Float64Array;
  private readonly shares: Float64Array;
  private readonly re: Float64Array;
  private readonly im: Float64Array;
  /** The last window of input, and the band as far as it is summed up, as rings. */
  private readonly inLeft: Float64Array;
  private readonly inRight: Float64Array;
  private readonly outLeft: Float64Array;
  private readonly outRight: Float64Array;
  private at = 0;

  /**
   * @param window power of two, 16 and up
   * @param longest longest block
   */
  constructor(
    readonly window: number,
    private readonly sampleRate: number,
    longest: number,
  ) {
    this.transform = new FourierTransform(window);
    this.shape = Float64Array.from({ length: window }, (_, n) => sin((PI * (n + 0.5)) / window));
    this.shares = new Float64Array(window);
    this.re = new Float64Array(window);
    this.im = new Float64Array(window);
    this.inLeft = new Float64Array(window);
    this.inRight = new Float64Array(window);
    this.outLeft = new Float64Array(window);
    this.outRight = new Float64Array(window);
    this.bandLeft = new Float64Array(longest);
    this.bandRight = new Float64Array(longest);
    this.restLeft = new Float64Array(longest);
    this.restRight = new Float64Array(longest);
  }

  /** @param lowHz,highHz edges of the band */
  configure(lowHz: number, highHz: number): void {
    const { window, shares, sampleRate } = this;
    for (let bin = 0; bin <= window / 2; bin++) {
      const share = bandShare((bin * sampleRate) / window, lowHz, highHz, sampleRate, window);
      shares[bin] = share;
      if (bin > 0 && bin < window / 2) shares[window - bin] = share;
    }
  }

  /** Takes in a block; leaves band and rest of the sound `window` frames ago in the four blocks. */
  process(left: Float32Array, right: Float32Array, start: number, frames: number): void {
    const { window, inLeft, inRight, outLeft, outRight } = this;
    const half = window / 2;
    for (let i = 0; i < frames; i++) {
      const { at } = this;
      const bandLeft = outLeft[at]!;
      const bandRight = outRight[at]!;
      this.bandLeft[i] = bandLeft;
      this.bandRight[i] = bandRight;
      this.restLeft[i] = inLeft[at]! - bandLeft;
      this.restRight[i] = inRight[at]! - bandRight;
      inLeft[at] = left[start + i]!;
      inRight[at] = right[start + i]!;
      outLeft[at] = 0;
      outRight[at] = 0;
      this.at = at + 1 === window ? 0 : at + 1;
      if (this.at % half === 0) this.transformWindow();
    }
  }

  /** The window that has just been filled, from the oldest frame on. */
  private transformWindow(): void {
    const { window, shape, shares, re, im, inLeft, inRight, outLeft, outRight, at } = this;
    const mask = window - 1;
    for (let n = 0; n < window; n++) {
      const place = (at + n) & mask;
      re[n] = inLeft[place]! * shape[n]!;
      im[n] = inRight[place]! * shape[n]!;
    }
    this.transform.forward(re, im);
    for (let bin = 0; bin < window; bin++) {
      re[bin] = re[bin]! * shares[bin]!;
      im[bin] = im[bin]! * shares[bin]!;
    }
    // The inverse is the forward transform with both parts exchanged.
    this.transform.forward(im, re);
    for (let n = 0; n < window; n++) {
      const place = (at + n) & mask;
      const weight = shape[n]! / window;
      outLeft[place] = outLeft[place]! + re[n]! * weight;
      outRight[place] = outRight[place]! + im[n]! * weight;
    }
  }
}
