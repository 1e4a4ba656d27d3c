import { KinetikonError } from '../errors';
import { clamp } from '../math/clamp';
import type { FadeShape } from '../math/fades';
import { SHORTEST_CLIP_SECONDS } from './clipEdits';
import type { Command } from './commands';
import { assetOf, placedPrintOf, placeInSound, soundPlace } from './prints';
import type { Clip } from './records/clips';
import type { SessionDocument } from './records/document';
import { endBeatOf } from './records/queries';
import { secondsOf } from './records/sounds';

/** Cuts of clips, several at once. Each returns a command and changes nothing itself. */

/** Two clips touch if no more than this lies between them: less than a frame at any rate. */
const TOUCHING_SECONDS = 1e-6;

const all = (commands: readonly Command[]): Command => ({ type: 'all', commands });
const refused = (message: string, next: string) =>
  new KinetikonError('session.command', message, { kept: 'Nothing was changed.', next });

const beatSeconds = ({ session }: SessionDocument): number => 60 / session.tempoBpm;

/** Those of some clips that lie where they were put, in order of time; swells and prints of clips follow theirs. */
function free(document: SessionDocument, ids: readonly string[]): Clip[] {
  return ids
    .flatMap((id) => document.clips[id] ?? [])
    .filter((clip) => !placedPrintOf(document, clip))
    .sort((a, b) => a.startBeat - b.startBeat);
}

/** Clips of all tracks of which a part lies between two beats. */
export const clipsBetween = (document: SessionDocument, fromBeat: number, toBeat: number): string[] =>
  Object.values(document.clips)
    .filter((clip) => clip.startBeat < toBeat && endBeatOf(document, clip) > fromBeat)
    .map(({ id }) => id);

/** Seconds of sound before a clip's beginning and behind its end, as it plays; less than 0 where it is longer than its sound. */
export function soundBeside(document: SessionDocument, clip: Clip): { before: number; behind: number } {
  const asset = assetOf(document, clip);
  const whole = asset ? secondsOf(asset) : clip.offsetSeconds + clip.lengthSeconds;
  const rest = whole - clip.offsetSeconds - clip.lengthSeconds;
  return clip.reversed ? { before: rest, behind: clip.offsetSeconds } : { before: clip.offsetSeconds, behind: rest };
}

/** Fades shortened so that they fit a length. */
export function fadesWithin(
  clip: Pick<Clip, 'fadeInSeconds' | 'fadeOutSeconds'>,
  lengthSeconds: number,
): Pick<Clip, 'fadeInSeconds' | 'fadeOutSeconds'> {
  const fadeInSeconds = Math.min(clip.fadeInSeconds, lengthSeconds);
  return { fadeInSeconds, fadeOutSeconds: Math.min(clip.fadeOutSeconds, lengthSeconds - fadeInSeconds) };
}

/** A clip between two beats, which lie within its sound. */
function between(document: SessionDocument, clip: Clip, fromBeat: number, toBeat: number): Command {
  const seconds = beatSeconds(document);
  const [cutIn, cutOut] = [(fromBeat - clip.startBeat) * seconds, (endBeatOf(document, clip) - toBeat) * seconds];
  const lengthSeconds = (toBeat - fromBeat) * seconds;
  return {
    type: 'clip.set',
    id: clip.id,
    values: {
      startBeat: fromBeat,
      offsetSeconds: Math.max(0, clip.offsetSeconds + (clip.reversed ? cutOut : cutIn)),
      lengthSeconds,
      ...fadesWithin(clip, lengthSeconds),
    },
  };
}

/** Moves clips together by so many seconds; none goes before the session's beginning. */
export function nudged(document: SessionDocument, ids: readonly string[], seconds: number): Command {
  const clips = free(document, ids);
  const beats = Math.max(seconds / beatSeconds(document), -Math.min(...clips.map(({ startBeat }) => startBeat)));
  return all(clips.map(({ id, startBeat }) => ({ type: 'clip.set', id, values: { startBeat: startBeat + beats } })));
}

/**
 * Lets clips play another part of their sounds, where they stand.
 * @param seconds by which the sound moves, to the right where positive; no farther than it reaches
 */
export function slipped(document: SessionDocument, ids: readonly string[], seconds: number): Command {
  return all(
    free(document, ids).map((clip) => {
      const { before, behind } = soundBeside(document, clip);
      const by = clamp(-Math.max(0, behind), Math.max(0, before), seconds);
      const offsetSeconds = Math.max(0, clip.offsetSeconds + (clip.reversed ? by : -by));
      return { type: 'clip.set', id: clip.id, values: { offsetSeconds } };
    }),
  );
}

/**
 * Cuts clips to a range; those outside it stay.
 * @throws KinetikonError session.command where none lies in it
 */
export function trimmedTo(
  document: SessionDocument,
  ids: readonly string[],
  fromBeat: number,
  toBeat: number,
): Command {
  const least = SHORTEST_CLIP_SECONDS / beatSeconds(document);
  const commands = free(document, ids).flatMap((clip) => {
    const [from, to] = [Math.max(fromBeat, clip.startBeat), Math.min(toBeat, endBeatOf(document, clip))];
    return to - from < least ? [] : [between(document, clip, from, to)];
  });
  if (commands.length === 0) throw refused('No chosen clip lies in the loop.', 'Mark a loop over the clips first.');
  return all(commands);
}

/**
 * Splits clips at some places of their sounds.
 * @param seconds places in the sound of a clip
 * @param newId prefix of the ids of new clips
 * @throws KinetikonError session.command where no place lies within a clip
 */
export function splitAtPlaces(
  document: SessionDocument,
  ids: readonly string[],
  seconds: (clip: Clip) => readonly number[],
  newId: string,
): Command {
  const perSecond = 1 / beatSeconds(document);
  const commands = free(document, ids).flatMap((clip, n): Command[] => {
    const into: number[] = [];
    for (const place of seconds(clip)
      .map((one) => soundPlace(clip, one))
      .sort((a, b) => a - b)) {
      if (place - (into.at(-1) ?? 0) < SHORTEST_CLIP_SECONDS) continue;
      if (clip.lengthSeconds - place >= SHORTEST_CLIP_SECONDS) into.push(place);
    }
    let id = clip.id;
    return into.map((one, k) => {
      const rest = `${newId}-${n}-${k}`;
      const split: Command = { type: 'clip.split', id, atBeat: clip.startBeat + one * perSecond, newId: rest };
      id = rest;
      return split;
    });
  });
  if (commands.length === 0) throw refused('There is no place to split at within the chosen clips.', 'Choose others.');
  return all(commands);
}

/** True if a clip goes on in its sound where another leaves off, at the same level. */
function goesOn(document: SessionDocument, clip: Clip, next: Clip): boolean {
  const isSameSound = JSON.stringify(clip.source) === JSON.stringify(next.source);
  const gap = (next.startBeat - endBeatOf(document, clip)) * beatSeconds(document);
  const step = placeInSound(next, 0) - placeInSound(clip, clip.lengthSeconds);
  return (
    isSameSound &&
    clip.reversed === next.reversed &&
    clip.mute === next.mute &&
    clip.gainDb === next.gainDb &&
    Math.abs(gap) < TOUCHING_SECONDS &&
    Math.abs(step) < TOUCHING_SECONDS
  );
}

/** Clips by the track that they are on, in order of time. */
function byTrack(clips: readonly Clip[]): Clip[][] {
  const tracks = new Map<string, Clip[]>();
  for (const clip of clips) tracks.set(clip.trackId, [...(tracks.get(clip.trackId) ?? []), clip]);
  return [...tracks.values()];
}

/**
 * Joins clips that go on in one another's sound, as a split leaves them.
 * @throws KinetikonError session.command where none of them do
 */
export function joined(document: SessionDocument, ids: readonly string[]): Command {
  const commands = byTrack(free(document, ids)).flatMap((clips): Command[] => {
    const runs: [Clip, ...Clip[]][] = [];
    for (const clip of clips) {
      const run = runs.at(-1);
      if (run && goesOn(document, run.at(-1)!, clip)) run.push(clip);
      else runs.push([clip]);
    }
    return runs
      .filter(({ length }) => length > 1)
      .flatMap(([first, ...others]): Command[] => {
        const last = others.at(-1)!;
        const lengthSeconds = others.reduce((sum, one) => sum + one.lengthSeconds, first.lengthSeconds);
        const { fadeOutSeconds, fadeOutShape } = last;
        const offsetSeconds = first.reversed ? last.offsetSeconds : first.offsetSeconds;
        const values = { lengthSeconds, offsetSeconds, fadeOutSeconds, fadeOutShape };
        return [
          { type: 'clip.remove', ids: others.map(({ id }) => id) },
          { type: 'clip.set', id: first.id, values },
        ];
      });
  });
  if (commands.length === 0) {
    throw refused(
      'Clips are joined that go on in one another’s sound, at the same level.',
      'Render the track to make one clip of different sounds.',
    );
  }
  return all(commands);
}

/**
 * Lets each clip last to the beginning of the next on its track, as far as its sound reaches.
 * @throws KinetikonError session.command where no clip can last longer
 */
export function gapsFilled(document: SessionDocument, ids: readonly string[]): Command {
  const seconds = beatSeconds(document);
  const commands = free(document, ids).flatMap((clip) => {
    const end = endBeatOf(document, clip);
    const next = Object.values(document.clips)
      .filter(({ id, trackId, startBeat }) => id !== clip.id && trackId === clip.trackId && startBeat >= end)
      .reduce((first, { startBeat }) => Math.min(first, startBeat), Infinity);
    const longer = Math.min((next - end) * seconds, soundBeside(document, clip).behind);
    if (!Number.isFinite(next) || longer < TOUCHING_SECONDS) return [];
    return [between(document, clip, clip.startBeat, end + longer / seconds)];
  });
  if (commands.length === 0)
    throw refused('The chosen clips have no gap behind them that their sounds could fill.', 'Choose others.');
  return all(commands);
}

/** Shapes of both fades of a crossfade: equal power for different sounds, equal gain for parts of the same. */
const CROSSFADES = { power: 'early', gain: 'straight' } as const satisfies Record<string, FadeShape>;
export type Crossfade = keyof typeof CROSSFADES;

/** Clips of which each overlaps the one before it on its track, with how long they do. */
export function overlaps(
  document: SessionDocument,
  ids: readonly string[],
): { readonly first: Clip; readonly second: Clip; readonly seconds: number }[] {
  return byTrack(free(document, ids)).flatMap((clips) =>
    clips.slice(1).flatMap((second, n) => {
      const first = clips[n]!;
      const seconds = (endBeatOf(document, first) - second.startBeat) * beatSeconds(document);
      // One that lies within the other has no end to fade over.
      const isWithin = endBeatOf(document, second) <= endBeatOf(document, first);
      return seconds > TOUCHING_SECONDS && !isWithin ? [{ first, second, seconds }] : [];
    }),
  );
}

/**
 * Fades clips over into one another where they overlap.
 * @throws KinetikonError session.command where none do
 */
export function crossfaded(document: SessionDocument, ids: readonly string[], kind: Crossfade): Command {
  const shape = CROSSFADES[kind];
  const fades = new Map<string, { -readonly [K in keyof Clip]?: Clip[K] }>();
  const setFade = (clip: Clip, values: Partial<Clip>) => fades.set(clip.id, { ...fades.get(clip.id), ...values });
  for (const { first, second, seconds } of overlaps(document, ids)) {
    const lasting = Math.min(seconds, first.lengthSeconds, second.lengthSeconds);
    setFade(first, { fadeOutSeconds: lasting, fadeOutShape: shape });
    setFade(second, { fadeInSeconds: lasting, fadeInShape: shape });
  }
  if (fades.size === 0)
    throw refused('No chosen clips overlap.', 'Move one over the end of another on the same track, and choose both.');
  return all(
    [...fades].map(([id, values]) => {
      const clip = { ...document.clips[id]!, ...values };
      // Fades at both ends of one clip do not cross.
      return { type: 'clip.set', id, values: { ...values, ...fadesWithin(clip, clip.lengthSeconds) } };
    }),
  );
}

export type Fades = Pick<Clip, 'fadeInSeconds' | 'fadeInShape' | 'fadeOutSeconds' | 'fadeOutShape'>;

/** Gives clips the same fades, each as far as it is long. */
export function fadedTogether(document: SessionDocument, ids: readonly string[], fades: Partial<Fades>): Command {
  return all(
    ids
      .flatMap((id) => document.clips[id] ?? [])
      .map((clip) => ({
        type: 'clip.set',
        id: clip.id,
        values: { ...fades, ...fadesWithin({ ...clip, ...fades }, clip.lengthSeconds) },
      })),
  );
}

/**
 * Copies clips one after the other up to a beat; the last is cut there.
 * @param newId prefix of the ids of new clips
 * @throws KinetikonError session.command where there is no room for one
 */
export function repeatedTo(document: SessionDocument, ids: readonly string[], toBeat: number, newId: string): Command {
  const clips = free(document, ids);
  const start = Math.min(...clips.map(({ startBeat }) => startBeat));
  const end = Math.max(...clips.map((clip) => endBeatOf(document, clip)));
  const least = SHORTEST_CLIP_SECONDS / beatSeconds(document);
  const length = end - start;
  const times = Math.ceil((toBeat - end) / length);
  if (!(times > 0)) throw refused('The range ends before the chosen clips do.', 'Mark a loop that ends behind them.');
  const commands = Array.from({ length: times }, (_, n) =>
    clips.flatMap((clip, k): Command[] => {
      const startBeat = clip.startBeat + (n + 1) * length;
      if (toBeat - startBeat < least) return [];
      const copy = { ...clip, id: `${newId}-${n}-${k}`, startBeat };
      const add: Command = { type: 'clip.copy', id: clip.id, newId: copy.id, startBeat };
      const isCut = endBeatOf(document, copy) > toBeat;
      return isCut ? [add, between(document, copy, startBeat, toBeat)] : [add];
    }),
  ).flat();
  return all(commands);
}
