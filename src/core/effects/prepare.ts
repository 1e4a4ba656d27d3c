import type { ResolvedSettings } from './settings';

/** A resource prepared for a kernel, in memory that threads share. */
export type Prepared = readonly Float32Array[];

/** A sound at the session's rate; a mono sound has the same array on both sides. */
export interface Samples {
  readonly left: Float32Array;
  readonly right: Float32Array;
  /**
   * The third and fourth channel of a sound that has four, which only a convolution hears: in all the ways left to left,
   * left to right, right to left, right to right.
   */
  readonly more?: readonly [Float32Array, Float32Array];
}

export interface PrepareContext {
  readonly sampleRate: number;
  /** All parameters in the order of the spec. */
  readonly values: readonly number[];
  readonly settings: ResolvedSettings;
  /** The sound of its setting at the sample rate; null for one that ships with the effect. */
  readonly sound: Samples | null;
}

/** @throws KinetikonError for a sound that cannot be worked with, with the reason */
export type Preparer = (context: PrepareContext) => Prepared;
