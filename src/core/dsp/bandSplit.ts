import { sin } from '../math/elementary';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { BlockFourier } from './blockFourier';
import type { Sides } from './sides';
import { sharedBySize } from './sharedTables';

/** Bins over which the edges of the band fall off. */
const EDGE_BINS = 2;

/**
 * Share of a frequency that belongs to the band: 1 inside, 0 outside, with raised-cosine edges of a few bins.
 * @param window length of the transform
 */
export function bandShare(hz: number, lowHz: number, highHz: number, sampleRate: number, window: number): number {
  const edge = (EDGE_BINS * sampleRate) / window;
  return rise((hz - lowHz) / edge) * rise((highHz - hz) / edge);
}

function rise(x: number): number {
  return x <= -0.5 ? 0 : x >= 0.5 ? 1 : 0.5 + 0.5 * sin(Math.PI * x);
}

interface Shapes {
  /** The root of a Hann window. */
  readonly shape: Doubles;
  /** The same, less what the transform there and back makes louder. */
  readonly weights: Doubles;
}

const shapesOf = sharedBySize((window, memory): Shapes => {
  const made = { shape: memory.doubles(window), weights: memory.doubles(window) };
  for (let n = 0; n < window; n++) {
    made.shape[n] = sin((Math.PI * (n + 0.5)) / window);
    made.weights[n] = made.shape[n]! / window;
  }
  return made;
});

/**
 * Takes a band out of a stereo sound with linear phase, by short-time transform with root-Hann windows that overlap
 * by half (Allen and Rabiner, "A unified approach to short-time Fourier analysis and synthesis", 1977); what is left is
 * the sound less the band, so that both together are the sound itself. Both channels share one complex transform.
 * Late by `window` frames; a longer window cuts sharper and smears more.
 */
export class BandSplit {
  /** The two parts of the last block. */
  readonly band: Sides;
  readonly rest: Sides;
  private readonly wasmKernels = wasm().kernels;
  private readonly transform: BlockFourier;
  private readonly shape: Doubles;
  private readonly weights: Doubles;
  private readonly shares: Doubles;
  private readonly re: Doubles;
  private readonly im: Doubles;
  /** The last window of input, and the band as far as it is summed up, as rings. */
  private readonly inLeft: Doubles;
  private readonly inRight: Doubles;
  private readonly outLeft: Doubles;
  private readonly outRight: Doubles;
  private at = 0;

  /**
   * @param window power of two, 16 and up
   * @param longest longest block
   */
  constructor(
    memory: Arena,
    readonly window: number,
    private readonly sampleRate: number,
    longest: number,
  ) {
    const block = () => memory.doubles(window);
    this.transform = new BlockFourier(window);
    ({ shape: this.shape, weights: this.weights } = shapesOf(window));
    this.shares = block();
    this.re = block();
    this.im = block();
    this.inLeft = block();
    this.inRight = block();
    this.outLeft = block();
    this.outRight = block();
    this.band = [memory.doubles(longest), memory.doubles(longest)];
    this.rest = [memory.doubles(longest), memory.doubles(longest)];
  }

  /** Forgets all sound. */
  reset(): void {
    for (const ring of [this.inLeft, this.inRight, this.outLeft, this.outRight]) ring.fill(0);
    this.at = 0;
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

  /** Takes in a part of a block; leaves band and rest of the sound `window` frames ago. */
  process(left: Floats, right: Floats, start: number, frames: number): void {
    const { window, wasmKernels, inLeft, inRight, outLeft, outRight, band, rest } = this;
    const half = window / 2;
    for (let i = 0; i < frames;) {
      const { at } = this;
      const count = Math.min(frames - i, half - (at % half));
      const [place, to, from] = [8 * at, 8 * i, 4 * (start + i)];
      for (const side of [0, 1] as const) {
        wasmKernels.splitRing(
          (side === 0 ? inLeft : inRight).byteOffset + place,
          (side === 0 ? outLeft : outRight).byteOffset + place,
          band[side].byteOffset + to,
          rest[side].byteOffset + to,
          (side === 0 ? left : right).byteOffset + from,
          count,
        );
      }
      i += count;
      this.at = (at + count) % window;
      if (this.at % half === 0) this.transformWindow();
    }
  }

  /** The window that has just been filled, from the oldest frame on. */
  private transformWindow(): void {
    const { window, wasmKernels, shape, weights, shares, re, im } = this;
    this.unrolled(re, this.inLeft, shape, false);
    this.unrolled(im, this.inRight, shape, false);
    this.transform.forward(re, im);
    wasmKernels.multiply(re.byteOffset, re.byteOffset, shares.byteOffset, window, false);
    wasmKernels.multiply(im.byteOffset, im.byteOffset, shares.byteOffset, window, false);
    // The inverse is the forward transform with both parts exchanged.
    this.transform.forward(im, re);
    this.unrolled(re, this.outLeft, weights, true);
    this.unrolled(im, this.outRight, weights, true);
  }

  /** Weighs a ring, from the oldest frame on, into a block, or adds the weighed block to the ring; half by half. */
  private unrolled(block: Doubles, ring: Doubles, weights: Doubles, back: boolean): void {
    const half = 4 * this.window;
    for (let n = 0; n < 2; n++) {
      const inBlock = block.byteOffset + n * half;
      const inRing = ring.byteOffset + ((8 * this.at + n * half) % (2 * half));
      const weight = weights.byteOffset + n * half;
      if (back) this.wasmKernels.multiply(inRing, inBlock, weight, this.window / 2, true);
      else this.wasmKernels.multiply(inBlock, inRing, weight, this.window / 2, false);
    }
  }
}
