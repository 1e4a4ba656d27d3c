import { TWO_PI } from '../math/circle';
import { cos, sin } from '../math/elementary';
import { Arena, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { sharedBySize } from './sharedTables';

/** Cosines and sines of each stage from blocks of 8 up. */
const twiddlesOf = sharedBySize((size, memory): Floats => {
  const table = memory.floats(2 * (size - 4));
  let at = 0;
  for (let half = 4; half < size; half *= 2) {
    for (const wave of [cos, sin]) for (let k = 0; k < half; k++) table[at++] = wave((TWO_PI * k) / (2 * half));
  }
  return table;
});

/** Steps that a transform, or its inverse, consists of: it can be done one by one. */
export const stepsOf = (size: number): number => 30 - Math.clz32(size);

/**
 * Fourier transforms of two real sounds at once, as the real and the imaginary part of one, in single precision
 * (Sorensen et al., "Real-valued fast Fourier transform algorithms", 1987). Spectra stand with bits reversed, half of the
 * bins of each sound, real parts first, then imaginary ones; the very first is what lies at 0 Hz and at half the rate.
 */
export class SpectrumPair {
  private readonly wasmKernels = wasm().kernels;
  private readonly twiddles: number;

  /** @param size power of two, 16 and up */
  constructor(readonly size: number) {
    this.twiddles = twiddlesOf(size).byteOffset;
  }

  /** Step `step` of `stepsOf(size)` of the transform, in place. */
  forwardStep(re: Floats, im: Floats, step: number): void {
    const half = this.size >> (step + 1);
    this.wasmKernels.transformStages(re.byteOffset, im.byteOffset, this.size, this.twiddles, half, half);
  }

  /** Step `step` of `stepsOf(size)` of the inverse, in place; all of them leave the sound times the size. */
  inverseStep(re: Floats, im: Floats, step: number): void {
    const half = step === 0 ? 2 : 2 << step;
    this.wasmKernels.inverseStages(re.byteOffset, im.byteOffset, this.size, this.twiddles, half, half === 2 ? 2 : half);
  }

  forward(re: Floats, im: Floats): void {
    this.wasmKernels.transformStages(re.byteOffset, im.byteOffset, this.size, this.twiddles, this.size >> 1, 2);
  }

  /** @param out bytes where the spectra of both sounds go, `size` floats each, one behind the other */
  part(re: Floats, im: Floats, out: number): void {
    this.wasmKernels.partSpectra(re.byteOffset, im.byteOffset, this.size, out);
  }

  join(left: Floats, right: Floats, re: Floats, im: Floats): void {
    this.wasmKernels.joinSpectra(left.byteOffset, right.byteOffset, this.size, re.byteOffset, im.byteOffset);
  }
}

/** Memory for transforms that are worked out ahead. */
export const scratchOf = (size: number): { readonly re: Floats; readonly im: Floats; readonly memory: Arena } => {
  const memory = new Arena();
  return { re: memory.floats(size), im: memory.floats(size), memory };
};
