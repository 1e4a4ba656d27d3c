import { between } from '../math/between';
import type { Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import type { Ramp } from './ramp';

/** Left and right, as effects work on them. */
export type Sides = readonly [Doubles, Doubles];

/**
 * Takes a part of a stereo block into double precision, at a gain.
 * @param start frame of the block that comes first in `out`
 */
export function takeSides(out: Sides, left: Floats, right: Floats, frames: number, gain = 1, start = 0): void {
  const at = 4 * start;
  const { kernels } = wasm();
  kernels.takeSides(out[0].byteOffset, out[1].byteOffset, left.byteOffset + at, right.byteOffset + at, gain, frames);
}

/** Puts it back into single precision, at a gain. */
export function putSides(left: Floats, right: Floats, from: Sides, frames: number, gain = 1, start = 0): void {
  const at = 4 * start;
  const { kernels } = wasm();
  kernels.putSides(left.byteOffset + at, right.byteOffset + at, from[0].byteOffset, from[1].byteOffset, gain, frames);
}

/**
 * Goes over to another sound as far as a ramp says.
 * @param left,right floats, worked on in place
 */
export function crossSides(
  left: Floats,
  right: Floats,
  other: readonly [Floats | Doubles, Floats | Doubles],
  share: Ramp,
  frames: number,
): void {
  for (let i = 0; i < frames; i++) {
    const part = share.next();
    left[i] = between(left[i]!, other[0][i]!, part);
    right[i] = between(right[i]!, other[1][i]!, part);
  }
}

/** The middle of a part of a stereo block: half of both sides' sum. */
export function takeMiddle(out: Doubles, left: Floats, right: Floats, frames: number, start = 0): void {
  const at = 4 * start;
  wasm().kernels.takeMiddle(out.byteOffset, left.byteOffset + at, right.byteOffset + at, frames);
}
