import type { Levels } from '../analysis/levels';
import type { Echogram } from '../analysis/echogram';
import type { BandLevel } from '../analysis/lowSpectrum';
import type { Onsets } from '../analysis/onsets';
import type { Phrases } from '../analysis/phrases';
import type { Picture } from '../analysis/pictures';
import type { RoomMeasures } from '../dsp/decay';
import type { Prepared } from '../effects/prepare';
import type { Plan, PlanInsert, Samples } from '../engine/plan';
import type { RenderRange } from '../engine/render';
import type { SwellSettings } from '../engine/swell';

/** Work that outlives a click: plain input, progress, a result. Who runs it is the caller's choice. */

export type BounceFormat = '16' | '24' | '32f' | 'flac';

/** A sound at the session's rate, in memory that threads share; mono when right is left. */
export interface SharedSamples {
  readonly assetId: string;
  readonly left: Float32Array;
  readonly right: Float32Array;
}

/** A plan, the sounds it plays and what of it is rendered. */
interface Rendering {
  readonly plan: Plan;
  readonly samples: readonly SharedSamples[];
  readonly range: RenderRange;
}

/** A sound file, and where a swell lands in it. */
export interface PrintedSound {
  readonly bytes: Uint8Array;
  readonly landSeconds: number;
}

export interface JobInputs {
  /** A sound file, decoded and at another rate. */
  decode: { readonly bytes: ArrayBuffer; readonly name: string; readonly sampleRateHz: number };
  echogram: {
    /** A chain, or one effect whose lines are told apart: then all of it comes first, and its lines follow. */
    readonly inserts: readonly PlanInsert[];
    readonly apart: boolean;
    readonly sampleRateHz: number;
    readonly seconds: number;
    readonly slots: number;
    readonly sounds?: readonly SharedSamples[];
  };
  /** The room that a chain makes. */
  room: {
    readonly inserts: readonly PlanInsert[];
    readonly sampleRateHz: number;
    readonly sounds?: readonly SharedSamples[];
  };
  picture: {
    readonly picture: Picture['kind'];
    readonly inserts: readonly PlanInsert[];
    readonly sampleRateHz: number;
    readonly seconds: number;
    readonly sounds?: readonly SharedSamples[];
  };
  /** What an effect works with, ahead of the audio thread. */
  prepare: {
    readonly insert: PlanInsert;
    readonly sampleRateHz: number;
    readonly sound: Samples | null;
  };
  render: Rendering;
  /** A sound file for prints that stay inside the session. */
  print: Rendering;
  /** The same of a reverse swell: of the plan's sound, in a space. */
  swell: {
    readonly plan: Plan;
    readonly samples: readonly SharedSamples[];
    readonly inserts: readonly PlanInsert[];
    readonly settings: SwellSettings;
  };
  /** The same of a sound without offset and rumble. */
  repair: {
    readonly assetId: string;
    readonly samples: readonly SharedSamples[];
    readonly sampleRateHz: number;
    readonly removeDc: boolean;
    readonly filter: PlanInsert | null;
  };
  /** How much lies between 10 and 500 Hz. */
  lowSpectrum: { readonly left: Float32Array; readonly right: Float32Array; readonly sampleRateHz: number };
  /** Where notes and syllables of a sound begin. */
  onsets: { readonly left: Float32Array; readonly right: Float32Array; readonly sampleRateHz: number };
  /** Loudness of plans over the same range. */
  loudness: Omit<Rendering, 'plan'> & { readonly plans: readonly Plan[] };
  /** Levels of what a plan plays. */
  levels: Rendering;
  /** Words and pauses of a sound, and how loud the words are. */
  phrases: Rendering;
  /** A sound file for others, with its levels; `gainDb` is added to the whole. */
  bounce: Rendering & { readonly format: BounceFormat; readonly gainDb: number };
}

export interface JobResults {
  decode: { left: Float32Array; right: Float32Array; originalFrames: number; originalRateHz: number; channels: number };
  echogram: readonly Echogram[];
  picture: Picture;
  room: RoomMeasures;
  prepare: Prepared;
  render: Samples;
  print: PrintedSound;
  swell: PrintedSound;
  repair: PrintedSound;
  lowSpectrum: readonly BandLevel[];
  onsets: Onsets;
  /** LUFS; null is silence. */
  loudness: readonly (number | null)[];
  levels: Levels;
  phrases: Phrases;
  bounce: { bytes: Uint8Array; seconds: number; levels: Levels; clipped: number };
}

export type JobKind = keyof JobInputs;

/** What makes a print, without the sounds that it takes. */
export type PrintTask = {
  [K in 'print' | 'swell' | 'repair']: { readonly kind: K } & Omit<JobInputs[K], 'samples'>;
}['print' | 'swell' | 'repair'];

/** A job with its input, as it travels to whoever does it. */
export type Task = { [K in JobKind]: { readonly kind: K } & JobInputs[K] }[JobKind];

/** Progress from 0 to 1, or a sound that is there and being filled from its beginning on. */
export type JobStep = number | { readonly left: Float32Array; readonly right: Float32Array };
