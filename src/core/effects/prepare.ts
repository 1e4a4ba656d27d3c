import type { ResolvedSettings } from './settings';

/** What has been made ready for a kernel, in memory that threads share. */
export type Prepared = readonly Float32Array[];

export interface PrepareContext {
  readonly sampleRate: number;
  /** All parameters in the order of the spec. */
  readonly values: readonly number[];
  readonly settings: ResolvedSettings;
  /** The sound of its setting at the sample rate; null for one that ships with the effect. */
  readonly sound: {
    readonly left: Float32Array;
    readonly right: Float32Array;
    readonly more?: readonly [Float32Array, Float32Array];
  } | null;
}

/** @throws KinetikonError for a sound that cannot be worked with, with the reason */
export type Preparer = (context: PrepareContext) => Prepared;
