import {
  crossfaded,
  gapsFilled,
  joined,
  overlaps,
  repeatedTo,
  splitAtPlaces,
  trimmedTo,
  type Crossfade,
} from '@/core/session/clipCuts';
import { copiedBeats, copyClips, pastedClips } from '@/core/session/copiedClips';
import type { Command } from '@/core/session/commands';
import { marksOf, soundOf } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import { KinetikonError } from '@/core/errors';
import type { Act } from '../ui/ActItems';
import { TOPIC } from './messages';
import { newId } from './newId';
import { SHORTCUTS } from './shortcuts';
import type { Studio } from './studio';

/** Acts on the chosen clips: those of the toolbar, of their menu and of the keys. */

const chosen = (studio: Studio): Clip[] => studio.state.clipIds.flatMap((id) => studio.state.document.clips[id] ?? []);

/** "the voice", or how many. */
const nameOf = (clips: readonly Clip[]) => (clips.length === 1 ? clips[0]!.name : `${clips.length} clips`);

/** Works a command out and does it as one step; a refusal is reported. */
function edit(studio: Studio, label: string, work: () => Command): void {
  try {
    studio.editor.perform(work(), label);
  } catch (error) {
    studio.messages.report(error, TOPIC.change);
  }
}

export function splitClips(studio: Studio): void {
  const atBeat = studio.transport.heardBeat;
  const commands = studio.state.clipIds.map((id) => ({ type: 'clip.split' as const, id, atBeat, newId: newId() }));
  if (commands.length > 0) studio.editor.perform({ type: 'all', commands }, `Split ${nameOf(chosen(studio))}`);
}

export function duplicateClips(studio: Studio): void {
  const copies = studio.state.clipIds.map((id) => ({ id, newId: newId() }));
  if (copies.length === 0) return;
  if (studio.editor.perform({ type: 'clip.duplicate', copies }, `Duplicate ${nameOf(chosen(studio))}`))
    studio.set({ clipIds: copies.map((copy) => copy.newId) });
}

export function deleteClips(studio: Studio): void {
  const { clipIds } = studio.state;
  if (clipIds.length > 0)
    studio.editor.perform({ type: 'clip.remove', ids: clipIds }, `Delete ${nameOf(chosen(studio))}`);
}

/** Copies the chosen clips; false where they cannot be copied. */
export async function copyChosen(studio: Studio): Promise<boolean> {
  const { document, clipIds } = studio.state;
  if (clipIds.length === 0) return false;
  try {
    await studio.clipboard.keepClips(copyClips(document, clipIds));
    return true;
  } catch (error) {
    studio.messages.report(error, TOPIC.change);
    return false;
  }
}

export async function cutChosen(studio: Studio): Promise<void> {
  const clips = chosen(studio);
  if (!(await copyChosen(studio))) return;
  studio.editor.perform({ type: 'clip.remove', ids: clips.map(({ id }) => id) }, `Cut ${nameOf(clips)}`);
}

/** Puts copied clips in at the playhead, on the chosen track and those below it, and the playhead behind them. */
export async function pasteClips(studio: Studio): Promise<void> {
  const copied = await studio.clipboard.clips();
  if (!copied) {
    studio.messages.report(
      new KinetikonError('session.command', 'No clips have been copied.', { next: 'Choose some and press Ctrl+C.' }),
      TOPIC.change,
    );
    return;
  }
  const { document, stripId } = studio.state;
  const atBeat = studio.transport.heardBeat;
  const { command, clipIds } = pastedClips(document, copied, { atBeat, trackId: stripId, newId: newId() });
  if (!studio.editor.perform(command, `Paste ${nameOf(copied.clips)}`)) return;
  studio.selection.selectClips(clipIds);
  if (!studio.engine.playing) studio.transport.seekBeat(atBeat + copiedBeats(document, copied));
}

function joinClips(studio: Studio): void {
  const clips = chosen(studio);
  edit(studio, `Join ${nameOf(clips)}`, () => joined(studio.state.document, studio.state.clipIds));
}

function fillGaps(studio: Studio): void {
  const clips = chosen(studio);
  edit(studio, `Fill the gap behind ${nameOf(clips)}`, () => gapsFilled(studio.state.document, studio.state.clipIds));
}

function repeatToLoopEnd(studio: Studio): void {
  const { document, clipIds } = studio.state;
  const { loopEndBeat } = document.session;
  edit(studio, `Repeat ${nameOf(chosen(studio))}`, () => repeatedTo(document, clipIds, loopEndBeat, newId()));
}

function trimToLoop(studio: Studio): void {
  const { document, clipIds } = studio.state;
  const { loopStartBeat, loopEndBeat } = document.session;
  edit(studio, `Trim ${nameOf(chosen(studio))}`, () => trimmedTo(document, clipIds, loopStartBeat, loopEndBeat));
}

export function crossfadeClips(studio: Studio, kind: Crossfade): void {
  const { document, clipIds } = studio.state;
  edit(studio, `Crossfade ${nameOf(chosen(studio))}`, () => crossfaded(document, clipIds, kind));
}

/** Splits the chosen clips where their files have marks. */
function splitAtMarks(studio: Studio): void {
  const { document, clipIds } = studio.state;
  const marks = (clip: Clip) => marksOf(document, clip);
  edit(studio, `Split ${nameOf(chosen(studio))} at marks`, () => splitAtPlaces(document, clipIds, marks, newId()));
}

/** Splits the chosen clips where notes and syllables begin, which are found first. */
async function splitAtOnsets(studio: Studio): Promise<void> {
  const clips = chosen(studio);
  const sounds = clips.flatMap(({ source }) => soundOf(studio.state.document, source) ?? []);
  const isDone = await studio.jobs.run('Looking for onsets', async () => {
    for (const soundId of new Set(sounds)) await studio.sounds.findOnsets(soundId);
    return true;
  });
  if (!isDone) return;
  const { document } = studio.state;
  const onsets = (clip: Clip) => studio.sounds.onsetsOf(clip) ?? [];
  const ids = clips.map(({ id }) => id);
  edit(studio, `Split ${nameOf(clips)} at onsets`, () => splitAtPlaces(document, ids, onsets, newId()));
}

/** The menu of the chosen clips. */
export function clipActs(studio: Studio): Act[] {
  const { document, clipIds } = studio.state;
  const clips = chosen(studio);
  const hasMarks = clips.some((clip) => marksOf(document, clip).length > 0);
  const hasOverlaps = overlaps(document, clipIds).length > 0;
  const { loopOn } = document.session;
  const set = (values: Partial<Clip>, label: string) =>
    studio.editor.perform(
      { type: 'all', commands: clipIds.map((id) => ({ type: 'clip.set', id, values })) },
      `${label} ${nameOf(clips)}`,
    );
  const [isMuted, isReversed] = [clips.every(({ mute }) => mute), clips.every(({ reversed }) => reversed)];
  return [
    { name: 'Cut', keys: SHORTCUTS.cut.shown, run: () => void cutChosen(studio) },
    { name: 'Copy', keys: SHORTCUTS.copy.shown, run: () => void copyChosen(studio) },
    { name: 'Paste at the playhead', keys: SHORTCUTS.paste.shown, run: () => void pasteClips(studio) },
    { name: 'Duplicate', keys: SHORTCUTS.duplicate.shown, run: () => duplicateClips(studio) },
    { name: 'Repeat to the end of the loop', isHidden: !loopOn, run: () => repeatToLoopEnd(studio) },
    {
      name: 'Split at the playhead',
      keys: SHORTCUTS.split.shown,
      isApart: true,
      run: () => splitClips(studio),
    },
    { name: 'Split at onsets', run: () => void splitAtOnsets(studio) },
    { name: 'Split at the marks of the file', isHidden: !hasMarks, run: () => splitAtMarks(studio) },
    { name: 'Join', isHidden: clips.length < 2, run: () => joinClips(studio) },
    { name: 'Fill the gap behind', run: () => fillGaps(studio) },
    { name: 'Trim to the loop', isHidden: !loopOn, run: () => trimToLoop(studio) },
    {
      name: 'Crossfade at equal power',
      isApart: true,
      isHidden: !hasOverlaps,
      run: () => crossfadeClips(studio, 'power'),
    },
    { name: 'Crossfade at equal gain', isHidden: !hasOverlaps, run: () => crossfadeClips(studio, 'gain') },
    {
      name: isReversed ? 'Play forwards' : 'Play backwards',
      run: () => set({ reversed: !isReversed }, isReversed ? 'Turn forwards' : 'Reverse'),
    },
    { name: isMuted ? 'End mute' : 'Mute', run: () => set({ mute: !isMuted }, isMuted ? 'End mute of' : 'Mute') },
    { name: 'Delete', keys: SHORTCUTS.remove.shown, isApart: true, run: () => deleteClips(studio) },
  ];
}
