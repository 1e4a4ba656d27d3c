import { KinetikonError } from '@/core/errors';
import { compileClipAlone } from '@/core/session/compile/parts';
import type { Command } from '@/core/session/commands';
import { NAME_LENGTH } from '@/core/session/nameLength';
import { makeSwell, presetSpace, trackBeneath, wordsOf, type Word } from '@/core/swells/makeSwell';
import { placeInSound } from '@/core/session/prints';
import { newClip } from '@/core/session/records/factories';
import type { Clip, ClipSource } from '@/core/session/records/clips';
import { secondsOf } from '@/core/session/records/sounds';
import type { RepairRecipe } from '@/core/session/records/prints';
import { CLIP_GAIN_PARAMETER } from '@/core/session/stripParameters';
import { cutText } from '@/core/text';
import { newId } from './newId';
import type { Studio } from './studio';

/** The space of a swell where none has been chosen. */
const HALL = ['reverb', 'hall'] as const;

/** Makes a swell into a word or another part of a clip; without one into its first word. */
export function swellInto(studio: Studio, clip: Clip, word: Word | null): void {
  const { document } = studio.state;
  const start = Math.min(placeInSound(clip, 0), placeInSound(clip, clip.lengthSeconds));
  const [first] = wordsOf(clip, studio.sounds.onsetsOf(clip) ?? []);
  const into = word ?? first ?? { from: start, to: start + clip.lengthSeconds };
  const { command, clipId, trackId } = makeSwell(document, clip, into, presetSpace(...HALL), newId);
  if (!studio.editor.perform(command, `Swell into ${clip.name}`)) return;
  studio.selection.selectStrip(trackId);
  studio.set({ clipIds: [clipId], word: null });
}

/** Prints a clip through its track onto a track of its own; the clip itself is muted. */
export async function printClip(studio: Studio, clip: Clip): Promise<void> {
  const { document } = studio.state;
  const track = document.tracks[clip.trackId]!;
  const print = { id: newId(), recipe: { kind: 'clip' as const, clipId: clip.id } };
  const done = await studio.prints.render(print, `Rendering ${clip.name}`);
  if (!done) return;
  const trackId = newId();
  const clipId = newId();
  const { asset } = done;
  const commands: Command[] = [
    { type: 'asset.add', asset: { ...asset } },
    ...trackBeneath(document, track, trackId, 'printed'),
    ...Object.values(document.sends)
      .filter(({ fromId }) => fromId === track.id)
      .map((send): Command => ({ type: 'send.add', send: { ...send, id: newId(), fromId: trackId } })),
    { type: 'print.add', print: { ...print, made: done.made } },
    {
      type: 'clip.add',
      clip: newClip({
        id: clipId,
        trackId,
        source: { kind: 'print', printId: print.id },
        name: cutText(`${clip.name}, rendered`, NAME_LENGTH),
        startBeat: clip.startBeat,
        lengthSeconds: secondsOf(asset),
      }),
    },
    { type: 'clip.set', id: clip.id, values: { mute: true } },
  ];
  if (!studio.editor.perform({ type: 'all', commands }, `Render ${clip.name}`)) return;
  studio.selection.selectStrip(trackId);
  studio.set({ clipIds: [clipId] });
}

export type Repair = Pick<RepairRecipe, 'removeDc' | 'rumbleHz'>;

/** Repairs of a clip's sound. */
export function repairOf(studio: Studio, clip: Clip): Repair & { source: ClipSource } {
  const print = clip.source.kind === 'print' ? studio.state.document.prints[clip.source.printId] : undefined;
  if (print?.recipe.kind === 'repair') return print.recipe;
  return { removeDc: false, rumbleHz: 0, source: clip.source };
}

/** The command that repairs a clip's sound, or takes its repairs away. */
export function repairCommand(studio: Studio, clip: Clip, change: Partial<Repair>): Command {
  const now = repairOf(studio, clip);
  const recipe: RepairRecipe = {
    kind: 'repair',
    source: now.source,
    removeDc: change.removeDc ?? now.removeDc,
    rumbleHz: change.rumbleHz ?? now.rumbleHz,
  };
  const { source } = clip;
  if (!recipe.removeDc && recipe.rumbleHz === 0) {
    return { type: 'clip.set', id: clip.id, values: { source: recipe.source } };
  }
  const { clips } = studio.state.document;
  const shared = Object.values(clips).some(
    (one) =>
      one.id !== clip.id &&
      one.source.kind === 'print' &&
      source.kind === 'print' &&
      one.source.printId === source.printId,
  );
  if (source.kind === 'print' && source !== recipe.source && !shared) {
    return { type: 'print.set', id: source.printId, recipe };
  }
  // Pieces that share a repaired sound are set one by one.
  const id = newId();
  return {
    type: 'all',
    commands: [
      { type: 'print.add', print: { id, recipe, made: null } },
      { type: 'clip.set', id: clip.id, values: { source: { kind: 'print', printId: id } } },
    ],
  };
}

/** Sets a clip's level so that it comes to a peak or a loudness. */
export async function normaliseClip(
  studio: Studio,
  clip: Clip,
  to: 'peak' | 'loudness',
  target: number,
): Promise<void> {
  const plan = compileClipAlone(studio.state.document, { ...clip, gainDb: 0 });
  if (!plan) return;
  await studio.jobs.run(`Measuring ${clip.name}`, async ({ signal, progress }) => {
    const samples = await studio.sounds.samplesOf(
      plan.strips.flatMap(({ clips }) => clips.map(({ assetId }) => assetId)),
      signal,
    );
    const range = { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 };
    const levels = await studio.worker.run({ kind: 'levels', plan, samples, range }, { signal, onProgress: progress });
    const now = to === 'peak' ? levels.peakDb : levels.loudnessLufs;
    if (now === null) {
      throw new KinetikonError('session.command', `${clip.name} is silent.`, { kept: 'Nothing was changed.' });
    }
    const gainDb = target - now;
    if (gainDb > CLIP_GAIN_PARAMETER.max) {
      throw new KinetikonError(
        'session.command',
        `${clip.name} would need ${gainDb.toFixed(1)} dB; a clip takes up to ${CLIP_GAIN_PARAMETER.max} dB.`,
        { kept: 'Nothing was changed.', next: 'Choose a lower target.' },
      );
    }
    studio.editor.perform({ type: 'clip.set', id: clip.id, values: { gainDb } }, `Normalise ${clip.name}`);
  });
}
