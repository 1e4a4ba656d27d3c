import type { Arena, Floats } from '../wasm/arena';
import type { Prepared } from './prepare';
import type { ResolvedSetting, ResolvedSettings } from './settings';

export { LONGEST_BLOCK as MAXIMUM_BLOCK } from '../dsp/longestBlock';

/** The sounding part of an effect. Stereo, in place, any block length up to MAXIMUM_BLOCK frames. */
export interface Kernel {
  /** Frames by which the dry sound comes out later; it can change with the parameters. */
  readonly latencyFrames: number;
  /**
   * Seconds for which the output outlasts the input, down to -90 dB; Infinity when it never falls silent.
   * @param plays true if it has notes to play, whose release counts too
   */
  tailSeconds(plays?: boolean): number;
  /**
   * Whether nothing of the past is left once it has heard silence for longer than its tail: it is passed over then until
   * sound comes again. False while it sounds or holds something of its own; effects that never rest do not tell.
   */
  readonly canSleep?: boolean;
  /** It is passed over from now on: the next `locate` goes to its place at once, as before any sound. */
  suspend?(): void;
  /** Writes the readings that the spec names, as they are at this moment. */
  readMeters?(out: Float64Array): void;
  /**
   * Moves a parameter, by its place in the spec, to a value as `resolveValue` gives it, without a click.
   * @param frames automation asks to arrive after just this many frames; otherwise the kernel takes its own time
   */
  setParameter(index: number, value: number, frames?: number): void;
  /**
   * Asks for the share that each of its lines has in the wet sound, besides their sum; effects with several lines have
   * it. The shares stand before any limiter and so are not late by the latency.
   * @param into filled by every `process` from now on, as many as there are lines in use
   * @returns how many lines are in use
   */
  splitLines?(into: readonly LineShare[]): number;
  /** Takes up what has been prepared for it, without a click; before the first time it is not heard. */
  setResource?(prepared: Prepared): void;
  /** A parameter is going to be moved while sound runs: what any of its values needs is made ready now. */
  prepareAutomation?(index: number): void;
  /**
   * Takes up something that happens, which is due so many frames into what `process` is given next. Effects that play
   * notes have it.
   */
  handleEvent?(event: KernelEvent, offset: number): void;
  /** Takes up another tempo and key of the session. */
  setMusicalContext?(music: MusicalContext): void;
  /** Takes up another setting, without a click; effects with settings have it. */
  setSetting?(id: string, setting: ResolvedSetting): void;
  /** Tells the place in the session of the next frame, after a start, a jump or a loop. */
  locate(frame: number): void;
  /** Forgets all sound and goes to all parameter targets at once. */
  reset(): void;
  /**
   * Works in place, in WebAssembly memory.
   * @param frames 1 to MAXIMUM_BLOCK
   * @param inputs other sounds, in the order of the spec's inputs; its own input takes the place of what is not there
   */
  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void;
}

/** A note that begins or ends, from a lane or played by hand; velocity from 0 to 1. */
export type KernelEvent = { readonly byHand?: true } & (
  | { readonly kind: 'noteOn'; readonly key: number; readonly velocity: number }
  | { readonly kind: 'noteOff'; readonly key: number }
);

/** What of a session tells notes their time and their place in a scale. */
export interface MusicalContext {
  readonly framesPerBeat: number;
  /** Keys of the scale as steps over C, 0 to 11, from its tonic up. */
  readonly scale: readonly number[];
}

/** Where no session says otherwise: two beats a second at 48 kHz, every key. */
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

/** What a kernel is made from. */
export interface KernelContext {
  readonly sampleRate: number;
  /** All parameters in the order of the spec, as `resolveValues` gives them. */
  readonly values: readonly number[];
  /** What its spec names beside the parameters. */
  readonly settings: ResolvedSettings;
  readonly music: MusicalContext;
  /** Where it takes memory for its WebAssembly kernels; it is given back whole when the kernel goes. */
  readonly memory: Arena;
}

export type KernelFactory = (context: KernelContext) => Kernel;
