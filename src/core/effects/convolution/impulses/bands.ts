import { BlockFourier } from '../../../dsp/blockFourier';
import { log } from '../../../math/elementary';
import { withArena, type Arena, type Doubles } from '../../../wasm/arena';

/** Octaves that rooms are worked out in, by their centres in Hz. */
export const BAND_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000] as const;

/** A band is whole to this part of an octave from its centre, and gone as far beyond its edge. */
const WHOLE = 0.35;

/** Weight of a frequency in a band: the weights of all bands sum to 1. */
function shareOf(band: number, hz: number): number {
  const octaves = log(Math.max(hz, 1) / BAND_HZ[band]!) / Math.LN2;
  if (octaves <= 0 && band === 0) return 1;
  if (octaves >= 0 && band === BAND_HZ.length - 1) return 1;
  return Math.min(1, Math.max(0, (1 - WHOLE - Math.abs(octaves)) / (1 - 2 * WHOLE)));
}

/**
 * Puts two sounds together from one for each band, of which only the band is taken, without delay.
 * @param work tells the sounds, each for some of the bands
 */
export function sumOfBands(
  frames: number,
  sampleRate: number,
  work: (add: (bands: readonly number[], left: Float64Array, right: Float64Array) => void) => void,
): [Float32Array, Float32Array] {
  return withArena((memory) => {
    const sum = new BandSum(memory, frames, sampleRate);
    work((bands, left, right) => sum.add(bands, left, right));
    return sum.finish();
  });
}

class BandSum {
  private readonly size: number;
  private readonly transform: BlockFourier;
  private readonly re: Doubles;
  private readonly im: Doubles;
  private readonly sumRe: Doubles;
  private readonly sumIm: Doubles;

  constructor(
    memory: Arena,
    private readonly frames: number,
    private readonly sampleRate: number,
  ) {
    let size = 16;
    // Room for what the bands ring ahead.
    while (size < frames + 4096) size *= 2;
    this.size = size;
    this.transform = new BlockFourier(size, memory);
    this.re = memory.doubles(size);
    this.im = memory.doubles(size);
    this.sumRe = memory.doubles(size);
    this.sumIm = memory.doubles(size);
  }

  add(bands: readonly number[], left: Float64Array, right: Float64Array): void {
    const { re, im } = this;
    re.fill(0);
    im.fill(0);
    re.set(left);
    im.set(right);
    this.transform.forward(re, im);
    for (const band of bands) this.take(band);
  }

  /** Takes a band of what has been transformed. */
  private take(band: number): void {
    const { re, im, size, sumRe, sumIm } = this;
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
    const left = new Float32Array(frames);
    const right = new Float32Array(frames);
    for (let n = 0; n < frames; n++) {
      left[n] = sumRe[n]! / size;
      right[n] = sumIm[n]! / size;
    }
    return [left, right];
  }
}
