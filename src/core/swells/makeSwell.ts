import { effectById } from '../effects/registry';
import { defaultValues } from '../effects/spec';
import { cutText } from '../text';
import type { ChainPreset } from '../session/chainPresets';
import type { Command } from '../session/commands';
import { NAME_LENGTH } from '../session/nameLength';
import { placeInSound, soundPlace } from '../session/prints';
import { newClip } from '../session/records/factories';
import type { Clip } from '../session/records/clips';
import type { Insert } from '../session/records/inserts';
import type { SessionDocument } from '../session/records/document';
import type { SwellSpace } from '../session/records/prints';
import type { Track } from '../session/records/strips';

/** A word of a clip: where it begins and ends, in the clip's sound. */
export interface Word {
  readonly from: number;
  readonly to: number;
}

/** More of a word than this does not feed its swell by itself. */
const LONGEST_SOURCE = 1.5;
const SHORTEST_SOURCE = 0.05;
const FADE_PART = 0.5;

/** A factory preset as the space of a swell; its effect is named after it. */
export function presetSpace(effect: string, presetId: string): SwellSpace {
  const spec = effectById(effect);
  const preset = spec.presets.find(({ id }) => id === presetId);
  if (!preset) throw new Error(`${effect} has no preset ${presetId}`);
  const values = { ...defaultValues(spec), ...preset.values };
  return { kind: 'own', inserts: [{ id: preset.id, effect, bypass: false, values, inputs: {}, notesFrom: null }] };
}

/** A chain preset as the space of a swell; its effects are named after it. */
export function chainSpace({ id, effects }: ChainPreset): SwellSpace {
  const inserts = effects.map(({ effect, values }, n): Insert => ({
    id: n === 0 ? id : `${id}-${n + 1}`,
    effect,
    bypass: false,
    values: { ...defaultValues(effectById(effect)), ...values },
    inputs: {},
    notesFrom: null,
  }));
  return { kind: 'own', inserts };
}

/** The words of a clip that is played: from one beginning to the next, the last up to its end. */
export function wordsOf(clip: Clip, onsets: readonly number[]): Word[] {
  const end = clip.offsetSeconds + clip.lengthSeconds;
  const inside = onsets.filter((one) => one >= clip.offsetSeconds && one < end);
  return inside.map((from, n) => ({ from, to: inside[n + 1] ?? end }));
}

/** The part of a clip's sound under the loop, if the loop starts within the clip; else null. */
export function loopedPart(clip: Clip, { session }: SessionDocument): Word | null {
  const secondsAt = (beat: number) => ((beat - clip.startBeat) * 60) / session.tempoBpm;
  const begins = secondsAt(session.loopStartBeat);
  if (!session.loopOn || begins < 0 || begins >= clip.lengthSeconds - SHORTEST_SOURCE) return null;
  const ends = Math.min(clip.lengthSeconds, secondsAt(session.loopEndBeat));
  const [one, other] = [placeInSound(clip, begins), placeInSound(clip, ends)];
  return { from: Math.min(one, other), to: Math.max(one, other) };
}

const SWELLS = 'swells';

/** The track that swells of a track lie on, when there is one. */
function swellTrackOf(document: SessionDocument, trackId: string): string | null {
  for (const { source, trackId: lies } of Object.values(document.clips)) {
    const recipe = source.kind === 'print' ? document.prints[source.printId]?.recipe : undefined;
    if (recipe?.kind === 'swell' && document.clips[recipe.clipId]?.trackId === trackId && lies !== trackId) return lies;
  }
  return null;
}

const beneathName = (name: string, what: string): string => cutText(`${name}, ${what}`, NAME_LENGTH);

/** Name of the track for the swells of a track, which need not exist yet. */
export function swellTrackName(document: SessionDocument, trackId: string): string {
  const known = swellTrackOf(document, trackId);
  return known === null ? beneathName(document.tracks[trackId]?.name ?? '', SWELLS) : document.tracks[known]!.name;
}

/** A track right beneath another, as loud, as far to a side and with the same output. */
export function trackBeneath(
  document: SessionDocument,
  { id, name, gainDb, pan, outputId }: Track,
  newTrackId: string,
  what: string,
): Command[] {
  return [
    { type: 'track.add', id: newTrackId, name: beneathName(name, what) },
    { type: 'strip.set', id: newTrackId, values: { gainDb, pan, outputId } },
    { type: 'strip.move', id: newTrackId, to: document.session.trackIds.indexOf(id) + 1 },
  ];
}

/** Commands for a swell into a word, on the track for swells, which is added if it does not exist. */
export function makeSwell(
  document: SessionDocument,
  clip: Clip,
  word: Word,
  space: SwellSpace,
  newId: () => string,
): { command: Command; clipId: string; trackId: string; printId: string } {
  const track = document.tracks[clip.trackId]!;
  const known = swellTrackOf(document, track.id);
  const trackId = known ?? newId();
  const printId = newId();
  const clipId = newId();
  // Reversed, a word is heard from its end.
  const landSeconds = clip.reversed ? word.to : word.from;
  const source = Math.max(SHORTEST_SOURCE, Math.min(LONGEST_SOURCE, word.to - word.from));
  const beats = document.session.tempoBpm / 60;
  const made: Command[] = [
    {
      type: 'print.add',
      print: {
        id: printId,
        recipe: { kind: 'swell', clipId: clip.id, landSeconds, space, values: { source, fadeIn: FADE_PART } },
        made: null,
      },
    },
    {
      type: 'clip.add',
      clip: newClip({
        id: clipId,
        trackId,
        source: { kind: 'print', printId },
        name: cutText(`swell into ${clip.name}`, NAME_LENGTH),
        startBeat: clip.startBeat + soundPlace(clip, landSeconds) * beats,
        lengthSeconds: 1,
      }),
    },
  ];
  const place = known ? [] : trackBeneath(document, track, trackId, SWELLS);
  return { command: { type: 'all', commands: [...place, ...made] }, clipId, trackId, printId };
}

/** A return with the effects of a swell's own space, which from then on rings in it: there it can be heard and set like any other. */
export function spaceAsReturn(
  document: SessionDocument,
  printId: string,
  returnId: string,
  newId: () => string,
): Command {
  const { recipe } = document.prints[printId]!;
  if (recipe.kind !== 'swell' || recipe.space.kind !== 'own') throw new Error(`${printId} has no space of its own`);
  const inserts = recipe.space.inserts.map((insert): Insert => ({ ...insert, id: newId() }));
  return {
    type: 'all',
    commands: [
      { type: 'return.add', id: returnId, name: 'Swell space', role: 'return' },
      { type: 'chain.replace', stripId: returnId, inserts },
      { type: 'print.set', id: printId, recipe: { ...recipe, space: { kind: 'return', returnId } } },
    ],
  };
}
