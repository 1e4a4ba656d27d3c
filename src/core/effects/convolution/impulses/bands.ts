import { FourierTransform } from '../../../dsp/fft';
import { log } from '../../../math/elementary';

/** Octaves that rooms are worked out in, by their centres in Hz. */
export const BAND_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000] as const;

/** A band is whole to this part of an octave from its centre, and gone as far beyond its edge. */
const WHOLE = 0.35;

/** How much a frequency belongs to a band: all bands together are 1. */
function shareOf(band: number, hz: number): number {
  const octaves = log(Math.max(hz, 1) / BAND_HZ[band]!) / Math.LN2;
  if (octaves <= 0 && band === 0) return 1;
  if (octaves >= 0 && band === BAND_HZ.length - 1) return 1;
  return Math.min(1, Math.max(0, (1 - WHOLE - Math.abs(octaves)) / (1 - 2 * WHOLE)));
}

/** Puts two sounds together from one for each band, of which only the band is taken, without delay. */
export class BandSum {
  private readonly size: number;
  private readonly transform: FourierTransform;
  private readonly re: Float64Array;
  private readonly im: Float64Array;
  private readonly sumRe: Float64Array;
  private readonly sumIm: Float64Array;

  constructor(
    private readonly frames: number,
    private readonly sampleRate: number,
  ) {
    let size = 16;
    // Room for what the bands ring ahead.
    while (size < frames + 4096) size *= 2;
    this.size = size;
    this.transform = new FourierTransform(size);
    this.re = new Float64Array(size);
    this.im = new Float64Array(size);
    this.sumRe = new Float64Array(size);
    this.sumIm = new Float64Array(size);
  }

  add(band: number, left: Float64Array, right: Float64Array): void {
    const { re, im, size, sumRe, sumIm } = this;
    re.fill(0);
    im.fill(0);
    re.set(left);
    im.set(right);
    this.transform.forward(re, im);
    const [from, to] = this.rangeOf(band);
    for (let bin = from; bin <= to; bin++) {
      const share = shareOf(band, (bin * this.sampleRate) / size);
      if (share === 0) continue;
      sumRe[bin] = sumRe[bin]! + share * re[bin]!;
      sumIm[bin] = sumIm[bin]! + share * im[bin]!;
      if (bin === 0 || bin === size / 2) continue;
      sumRe[size - bin] = sumRe[size - bin]! + share * re[size - bin]!;
      sumIm[size - bin] = sumIm[size - bin]! + share * im[size - bin]!;
    }
  }

  /** Bins outside of which nothing belongs to a band. */
  private rangeOf(band: number): [number, number] {
    const bin = (hz: number) => Math.min(this.size / 2, Math.floor((hz * this.size) / this.sampleRate));
    const from = band === 0 ? 0 : bin(BAND_HZ[band]! / 2);
    return [from, band === BAND_HZ.length - 1 ? this.size / 2 : bin(BAND_HZ[band]! * 2)];
  }

  /** Both sounds. */
  finish(): [Float32Array, Float32Array] {
    const { sumRe, sumIm, size, frames } = this;
    // With both parts exchanged a transform is its own inverse, times the size.
    this.transform.forward(sumIm, sumRe);
    return [sumRe, sumIm].map((part) => Float32Array.from(part.subarray(0, frames), (x) => x / size)) as [
      Float32Array,
      Float32Array,
    ];
  }
}
