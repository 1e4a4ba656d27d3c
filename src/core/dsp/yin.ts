import { clamp } from '../math/clamp';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import type { Arena, Doubles } from '../wasm/arena';
import { BlockFourier } from './blockFourier';

/** Length of the comparison window, in periods of the lowest pitch. */
const WINDOW_PERIODS = 1.5;

/** A period that a window may have: in frames, between whole ones, and how unlike the window is to itself that far on. */
export interface PeriodCandidate {
  readonly frames: number;
  /** 0 for a perfect period; about 1 for none. */
  readonly unlike: number;
}

/**
 * The cumulative mean normalised difference of a window with itself, by lag (de Cheveigne and Kawahara, "YIN, a fundamental
 * frequency estimator for speech and music", J. Acoust. Soc. Am. 111, 2002), with the products of all lags from two
 * transforms.
 */
export class Yin {
  /** Frames that `compare` looks at, now and at most. */
  length = 0;
  readonly mostLength: number;
  /** The lags between which periods are looked for. */
  shortest = 2;
  longest = 2;
  /** By lag, up to one beyond the longest. */
  readonly difference: Float64Array;
  private window = 0;
  private readonly transform: BlockFourier;
  private readonly re: Doubles;
  private readonly im: Doubles;

  /** @param lowestHz the lowest pitch that will ever be looked for */
  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    lowestHz: number,
  ) {
    this.limit(lowestHz, sampleRate / 2);
    this.mostLength = this.length;
    this.difference = new Float64Array(this.longest + 2);
    const size = powerOfTwoFrom(this.length);
    this.transform = new BlockFourier(size);
    this.re = memory.doubles(size);
    this.im = memory.doubles(size);
  }

  /** Looks for pitches between these from now on. */
  limit(lowHz: number, highHz: number): void {
    this.shortest = Math.max(2, Math.floor(this.sampleRate / highHz));
    this.longest = Math.max(this.shortest + 1, Math.ceil(this.sampleRate / lowHz));
    this.window = Math.round(WINDOW_PERIODS * this.longest);
    this.length = this.window + this.longest + 1;
  }

  /**
   * Works out `difference`.
   * @param from where the `length` samples begin that it looks at
   */
  compare(samples: Float64Array, from = 0): void {
    const { window, length, transform, re, im, difference } = this;
    const { size } = transform;
    for (let n = 0; n < size; n++) {
      re[n] = n < window ? samples[from + n]! : 0;
      im[n] = n < length ? samples[from + n]! : 0;
    }
    transform.forward(re, im);
    // Both spectra, told apart by their symmetry: the product of the one and the other's mirror image is that of all lags.
    for (let k = 0; k <= size / 2; k++) {
      const l = (size - k) % size;
      const aRe = (re[k]! + re[l]!) / 2;
      const aIm = (im[k]! - im[l]!) / 2;
      const bRe = (im[k]! + im[l]!) / 2;
      const bIm = (re[l]! - re[k]!) / 2;
      const pRe = aRe * bRe + aIm * bIm;
      const pIm = aRe * bIm - aIm * bRe;
      re[k] = re[l] = pRe;
      im[k] = pIm;
      im[l] = -pIm;
    }
    // The inverse transform is the forward one with both parts exchanged.
    transform.forward(im, re);
    let energy = 0;
    for (let n = from; n < from + window; n++) energy += samples[n]! * samples[n]!;
    let moved = energy;
    let sum = 0;
    difference[0] = 1;
    for (let lag = 1; lag <= this.longest + 1; lag++) {
      const leaves = samples[from + lag - 1]!;
      const comes = samples[from + lag + window - 1]!;
      moved += comes * comes - leaves * leaves;
      const unlike = Math.max(0, energy + moved - (2 * re[lag]!) / size);
      sum += unlike;
      difference[lag] = sum > 0 ? (unlike * lag) / sum : 1;
    }
  }

  /** The period around a lag at which the difference has a low point, by a parabola through three lags. */
  around(lag: number): PeriodCandidate {
    const { difference } = this;
    const [before, here, after] = [difference[lag - 1]!, difference[lag]!, difference[lag + 1]!];
    const bend = before - 2 * here + after;
    // At the ends of what is looked at there need be no low point: there is no more than a frame to go then.
    const shift = bend > 0 ? clamp(-1, 1, (before - after) / (2 * bend)) : 0;
    return { frames: lag + shift, unlike: Math.max(0, here - ((before - after) * shift) / 4) };
  }

  /** True if the difference has a local minimum at a lag. */
  isLow(lag: number): boolean {
    const { difference } = this;
    return difference[lag]! < difference[lag - 1]! && difference[lag]! <= difference[lag + 1]!;
  }
}
