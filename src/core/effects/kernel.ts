import type { Arena, Floats } from '../wasm/arena';
import type { Prepared } from './prepare';
import type { ResolvedSetting, ResolvedSettings } from './settings';

export { LONGEST_BLOCK as MAXIMUM_BLOCK } from '../dsp/longestBlock';

/** The sounding part of an effect. Stereo, in place, any block length up to MAXIMUM_BLOCK frames. */
export interface Kernel {
  /** Latency in frames; may change with the parameters. */
  readonly latencyFrames: number;
  /**
   * Seconds for which the output outlasts the input, down to -90 dB; Infinity when it never falls silent.
   * @param plays true if it has notes to play, whose release counts too
   */
  tailSeconds(plays?: boolean): number;
  /**
   * True if the kernel may be suspended after `tailSeconds` of silence, false while it sounds without input. Undefined for
   * kernels that are never suspended.
   */
  readonly canSleep?: boolean;
  /** Suspends the kernel: the next `locate` moves without a ramp. */
  suspend?(): void;
  /** Writes the current values of the meters that the spec names, in its order. */
  readMeters?(out: Float64Array): void;
  /**
   * Moves a parameter, by its index in the spec, to a value of `resolveValue`, without a click.
   * @param frames length of the ramp, given by automation; the kernel's own otherwise
   */
  setParameter(index: number, value: number, frames?: number): void;
  /**
   * Asks for the wet signal of each line besides their sum, for effects with several lines. It is taken before any limiter and
   * does not have the latency.
   * @param into filled by every `process` from now on, one for each line in use
   * @returns lines in use
   */
  splitLines?(into: readonly LineShare[]): number;
  /** Sets its prepared resource, without a click; it is not heard before the first. */
  setResource?(prepared: Prepared): void;
  /** Allocates what any value of a parameter may need, before automation moves it. */
  prepareAutomation?(index: number): void;
  /**
   * Handles an event `offset` frames into the next block; for effects that play notes.
   */
  handleEvent?(event: KernelEvent, offset: number): void;
  /** Sets tempo and scale. */
  setMusicalContext?(music: MusicalContext): void;
  /** Changes a setting, without a click; for effects with settings. */
  setSetting?(id: string, setting: ResolvedSetting): void;
  /** Sets the session frame of the next sample, after a start, a jump or a loop. */
  locate(frame: number): void;
  /** Clears its state and jumps to all parameter targets. */
  reset(): void;
  /**
   * Processes a block in place, in WebAssembly memory.
   * @param frames 1 to MAXIMUM_BLOCK
   * @param inputs side chains in the order of the spec's inputs; null where the kernel uses its own input
   */
  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void;
}

/** A note that begins or ends, from a lane or played by hand; velocity from 0 to 1. */
export type KernelEvent = { readonly byHand?: true } & (
  | { readonly kind: 'noteOn'; readonly key: number; readonly velocity: number }
  | { readonly kind: 'noteOff'; readonly key: number }
);

/** Tempo and scale of the session. */
export interface MusicalContext {
  readonly framesPerBeat: number;
  /** Keys of the scale as steps over C, 0 to 11, from its tonic up. */
  readonly scale: readonly number[];
}

/** Default without a session: two beats a second at 48 kHz, every key. */
export const DEFAULT_MUSICAL_CONTEXT: MusicalContext = {
  framesPerBeat: 24000,
  scale: [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11],
};

export type Inputs = readonly (SidechainBlock | null)[];

export interface SidechainBlock {
  readonly left: Floats;
  readonly right: Floats;
}

/** Blocks of MAXIMUM_BLOCK frames. */
export interface LineShare {
  readonly left: Float64Array;
  readonly right: Float64Array;
}

/** Everything that a kernel is built from. */
export interface KernelContext {
  readonly sampleRate: number;
  /** All parameters in the order of the spec, as `resolveValues` gives them. */
  readonly values: readonly number[];
  /** Settings that the spec names besides the parameters. */
  readonly settings: ResolvedSettings;
  readonly music: MusicalContext;
  /** Memory for its WebAssembly kernels, freed as a whole when the kernel is disposed of. */
  readonly memory: Arena;
}

export type KernelFactory = (context: KernelContext) => Kernel;
