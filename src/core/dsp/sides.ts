import type { Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

/** Left and right, as effects work on them. */
export type Sides = readonly [Doubles, Doubles];

/** Takes a stereo block into double precision, at a gain. */
export function takeSides([outLeft, outRight]: Sides, left: Floats, right: Floats, frames: number, gain = 1): void {
  wasm().loops.takeSides(outLeft.byteOffset, outRight.byteOffset, left.byteOffset, right.byteOffset, gain, frames);
}

/** Puts a stereo block back into single precision, at a gain. */
export function putSides(left: Floats, right: Floats, [fromLeft, fromRight]: Sides, frames: number, gain = 1): void {
  wasm().loops.putSides(left.byteOffset, right.byteOffset, fromLeft.byteOffset, fromRight.byteOffset, gain, frames);
}
