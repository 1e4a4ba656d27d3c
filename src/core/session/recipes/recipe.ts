import type { EffectId } from '../../effects/registry';
import type { FoundChord } from '../../analysis/chordFinder';
import type { Region } from '../../analysis/portrait';
import type { Phrases } from '../../analysis/phrases';
import { cutText } from '../../text';
import type { Command } from '../commands';
import { NAME_LENGTH } from '../nameLength';
import { wordsOf } from '../../swells/makeSwell';
import { soundOf, soundPlace } from '../prints';
import { beatsPerBar, endBeat, stripOf } from '../records/queries';
import type { SessionDocument } from '../records/document';

/** A question a recipe asks: one of the tracks, one of the sections, or one of a few answers. */
export type Question = {
  readonly id: string;
  readonly text: string;
  /** It is asked only where another question is answered so. */
  readonly when?: { readonly id: string; readonly is: string };
} & (
  | { readonly kind: 'track' }
  | {
      readonly kind: 'section';
      /** The section that is chosen to begin with; the first without it. */
      readonly preselect?: (document: SessionDocument) => string | undefined;
    }
  | { readonly kind: 'choice'; readonly choices: readonly { readonly id: string; readonly name: string }[] }
);

export interface Answers {
  readonly [question: string]: string;
}

/** The longest section; of those as long the last. */
export const largestSection = ({ sections }: SessionDocument): string | undefined =>
  Object.values(sections).sort((a, b) => b.lengthBeats - a.lengthBeats || b.startBeat - a.startBeat)[0]?.id;

/** Name of the chosen voice track. */
export const voiceName = (document: SessionDocument, answers: Answers): string =>
  stripOf(document, answers.voice ?? '')?.name ?? '';

/** Name of a strip that a recipe adds for the voice. */
export const madeName = (what: string, document: SessionDocument, answers: Answers): string =>
  cutText(`${what} ${voiceName(document, answers)}`, NAME_LENGTH);

/** Data for building a recipe. */
export interface RecipeContext {
  readonly document: SessionDocument;
  readonly answers: Answers;
  /** Phrases of the track that was named, in seconds of the session. */
  readonly phrases: Phrases;
  /** Frequency regions of that track, the most prominent first. */
  readonly regions: readonly Region[];
  /** Onsets in the sounds of the track, in seconds, by asset. */
  readonly onsets: Readonly<Record<string, readonly number[]>>;
  /** Chords that sound bar by bar on the track that `Recipe.chordsOf` names; none where it names none. */
  readonly chords: readonly (FoundChord | null)[];
  readonly newId: () => string;
}

/** Beats over which a session sounds, in whole bars, one at least. */
export function wholeBars(document: SessionDocument): number {
  const perBar = beatsPerBar(document.session);
  return Math.max(perBar, Math.ceil(endBeat(document) / perBar) * perBar);
}

/** Onsets of a track, in seconds of the session. */
export function onsetsOfTrack({ document, onsets }: RecipeContext, trackId: string): number[] {
  const seconds = 60 / document.session.tempoBpm;
  return Object.values(document.clips)
    .filter((clip) => clip.trackId === trackId && !clip.mute)
    .flatMap((clip) =>
      wordsOf(clip, onsets[soundOf(document, clip.source) ?? ''] ?? []).map(
        ({ from, to }) => clip.startBeat * seconds + soundPlace(clip, clip.reversed ? to : from),
      ),
    )
    .sort((a, b) => a - b);
}

export interface Dish {
  readonly command: Command;
  /** Descriptions of what it builds, one a line. */
  readonly built: readonly string[];
  /** The strip to look at afterwards. */
  readonly showId: string;
}

/** A strip that a recipe adds, and the ways by which the voice reaches it; or the voice itself, with what it is given. */
export interface Sketched {
  readonly name: string;
  readonly kind: 'return' | 'track' | 'voice';
  /** Effects on it, by id, in order. */
  readonly effects: readonly EffectId[];
  /** By a send, as the key of one of its effects, or as what its sound is made from. */
  readonly fedBy: readonly ('send' | 'key' | 'print')[];
}

/** A whole arrangement of ordinary parts for an outcome. */
export interface Recipe {
  readonly id: string;
  readonly name: string;
  readonly outcome: string;
  /** Other words of the trade that find it, apart by spaces. */
  readonly synonyms?: string;
  readonly questions: readonly Question[];
  /** Lines that say beforehand what will be built, for these answers. */
  readonly preview: (document: SessionDocument, answers: Answers) => readonly string[];
  /** The track whose chords it wants to know, for these answers. */
  readonly chordsOf?: (answers: Answers) => string | null;
  /** Strips and connections that it adds, for the preview. */
  readonly sketch: (document: SessionDocument, answers: Answers) => readonly Sketched[];
  /** @throws KinetikonError session.command when the track has nothing to work with */
  readonly build: (kitchen: RecipeContext) => Dish;
}
