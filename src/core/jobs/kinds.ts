import type { Unpacked } from '../formats/aac';
import type { FileAbout } from '../formats/about/about';
import type { Heard } from '../formats/speakers';
import type { OutputFormatId } from '../formats/soundFormats';
import type { FoundChord, Stretch } from '../analysis/chordFinder';
import type { Levels } from '../analysis/levels';
import type { Echogram } from '../analysis/echogram';
import type { BandLevel } from '../analysis/lowSpectrum';
import type { Onsets } from '../analysis/onsets';
import type { Portrait, Region } from '../analysis/portrait';
import type { Phrases } from '../analysis/phrases';
import type { PitchCourse } from '../analysis/pitch';
import type { Picture } from '../analysis/pictures';
import type { RoomMatch } from '../analysis/roomMatch';
import type { Recovered, SweepSettings } from '../analysis/sweep';
import type { FieldOrder } from '../dsp/ambisonics';
import type { RoomMeasures } from '../dsp/decay';
import type { ParameterValue } from '../effects/values';
import type { Scale } from '../effects/scaleKeys';
import type { Prepared } from '../effects/prepare';
import type { Plan, PlanInsert, Samples } from '../engine/plan';
import type { ListeningResponse } from '../listening/responses';
import type { RenderRange } from '../engine/render';
import type { SwellSettings } from '../swells/renderSwell';
import type { LongSound } from './place';

/** Work that outlives a click: plain input, progress, a result. Who runs it is the caller's choice. */

/** A sound at the session's rate, in memory that threads share; mono when right is left. */
export interface SharedSamples extends Samples {
  /** Of the sound: the asset's, or with what is heard of it. */
  readonly assetId: string;
}

/** A sound that a plan plays. */
export type PlayedSound = SharedSamples | LongSound;

/** A plan, the sounds it plays and what of it is rendered. */
export interface Rendering {
  readonly plan: Plan;
  readonly samples: readonly PlayedSound[];
  readonly range: RenderRange;
}

export type ImpulseSource =
  | { readonly kind: 'shipped'; readonly id: string }
  | {
      readonly kind: 'simulated';
      readonly simulator: string;
      readonly values: Readonly<Record<string, ParameterValue>>;
      readonly seed: number;
    };

/** Facts about a sound file that is made beside them, and where a swell lands in it. */
export interface PrintedSound {
  readonly landSeconds: number;
  /** Decibels by which it passes full scale, 0 where it does not. Its file, in 32-bit figures, keeps that. */
  readonly overDb: number;
}

export interface JobInputs {
  /** A sound file that is damaged or cut short: as far as it can be read, as WAV of 32 bit floating point. */
  salvage: { readonly bytes: ArrayBuffer; readonly name: string };
  /** A sound file, decoded and at another rate. */
  decode: {
    readonly bytes: ArrayBuffer;
    readonly name: string;
    readonly sampleRateHz: number;
    /** What is heard of more than two channels; as it is where nothing is chosen. */
    readonly heard?: Heard | undefined;
  };
  /** What a sound file tells beside its sound; null where it tells nothing. */
  about: { readonly file: Blob };
  /** Checks a sound that is longer than so many seconds, keeping nothing of it. */
  scan: { readonly file: Blob; readonly name: string; readonly longerThanSeconds: number };
  /** AAC as WAV of 32 bit floating point. */
  unpack: { readonly file: Blob; readonly name: string };
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
  /** Prepares the resource of an effect, outside of the audio thread. */
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
    readonly samples: readonly PlayedSound[];
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
  /** An impulse that ships, or one that a simulator works out; a file of all its paths. */
  impulse: {
    readonly from: ImpulseSource;
    readonly sampleRateHz: number;
  };
  /** The sound to be played in a place that is measured, as a file. */
  sweep: { readonly settings: SweepSettings; readonly sampleRateHz: number };
  /** The impulse of a place from a recording of the sweep, or from what a simulated place would record. */
  recover: {
    readonly settings: SweepSettings;
    readonly sampleRateHz: number;
    readonly recording: Samples | { readonly placeId: string; readonly noiseDb: number; readonly clockPpm: number };
  };
  /** Settings of a reverb that come near an impulse. */
  match: { readonly impulse: Samples | { readonly shippedId: string }; readonly sampleRateHz: number };
  /** Spectrum between 10 and 500 Hz. */
  lowSpectrum: { readonly left: Float32Array; readonly right: Float32Array; readonly sampleRateHz: number };
  /** Onsets of notes and syllables in a sound. */
  onsets: { readonly left: Float32Array; readonly right: Float32Array; readonly sampleRateHz: number };
  /** The pitch of a sound over time. */
  pitch: { readonly left: Float32Array; readonly right: Float32Array; readonly sampleRateHz: number };
  /** Resource of a listening place, and its response. */
  listening: { readonly id: string; readonly sampleRateHz: number };
  /** Levels of what a plan plays. */
  levels: Rendering;
  /** Words and pauses of a sound, and how loud the words are; and where in the spectrum it lives. */
  phrases: Rendering;
  /** Triads of a scale that a plan plays, in each of some stretches. */
  chords: Rendering & { readonly stretches: readonly Stretch[]; readonly scale: Scale };
  /** Spectrum, prominent regions and mono loss of a plan over its whole length. */
  portrait: Rendering;
  /** A sound file for others, with its levels; `gainDb` is added to the whole. */
  bounce: Rendering & {
    readonly format: OutputFormatId;
    readonly gainDb: number;
    /** A sound field of this order in place of two channels; its levels are those of its first channel. */
    readonly field?: FieldOrder;
  };
}

export interface JobResults {
  salvage: { readonly bytes: Uint8Array };
  about: { readonly about: FileAbout | null };
  scan: { readonly isLong: boolean };
  unpack: Unpacked;
  decode: Samples & { readonly originalFrames: number; readonly originalRateHz: number; readonly channels: number };
  echogram: readonly Echogram[];
  picture: Picture;
  room: RoomMeasures;
  prepare: Prepared;
  render: Samples;
  print: PrintedSound;
  swell: PrintedSound;
  repair: PrintedSound;
  impulse: Samples & { readonly bytes: Uint8Array };
  sweep: { readonly bytes: Uint8Array };
  recover: Omit<Recovered, 'paths'> & { readonly bytes: Uint8Array; readonly room: RoomMeasures };
  match: RoomMatch;
  lowSpectrum: readonly BandLevel[];
  onsets: Onsets;
  pitch: PitchCourse;
  listening: { readonly prepared: Prepared | null; readonly response: ListeningResponse };
  /** LUFS; null is silence. */
  levels: Levels;
  phrases: Phrases & { readonly regions: readonly Region[] };
  chords: readonly (FoundChord | null)[];
  portrait: Portrait;
  bounce: { seconds: number; levels: Levels; clipped: number };
}

export type JobKind = keyof JobInputs;

/** Result of a job, with the sound file that some make beside it. */
export type Done<K extends JobKind, File> = JobResults[K] &
  (K extends 'bounce' | 'print' | 'swell' | 'repair' ? { readonly file: File } : unknown);

/** Input of the job of a print, without its sounds. */
export type PrintTask = {
  [K in 'print' | 'swell' | 'repair']: { readonly kind: K } & Omit<JobInputs[K], 'samples'>;
}['print' | 'swell' | 'repair'];

/** True for work that reads long sounds by pages; other work needs its sounds whole. */
export const readsLongSounds = ({ kind }: { readonly kind: JobKind }): boolean =>
  kind === 'bounce' || kind === 'print' || kind === 'swell';

/** A job with its input, as it travels to whoever does it. */
export type Task = { [K in JobKind]: { readonly kind: K } & JobInputs[K] }[JobKind];

/** Progress from 0 to 1, or a sound that is there and being filled from its beginning on. */
export type JobStep = number | { readonly left: Float32Array; readonly right: Float32Array };
