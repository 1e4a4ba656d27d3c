import { KinetikonError } from '../errors';
import { SHORTEST_CLIP_SECONDS, removeClip, splitClip } from './clipEdits';
import { cornersOf, heightAt, laneParameter, valueAtHeight } from './lanes';
import { placedPrintOf } from './prints';
import { SHORTEST_NOTE_BEATS, type Lane, type Point } from './records/lanes';
import { SHORTEST_SECTION_BEATS } from './records/session';
import { timingOf } from './records/queries';
import type { Clip } from './records/clips';
import type { SessionDocument } from './records/document';

/** Time of all tracks at once: clips, notes, lanes, sections and the loop. */

/** A range of time to insert or delete, and the prefix of new clip ids. */
export interface TimeEdit {
  readonly atBeat: number;
  readonly beats: number;
  readonly newId: string;
}

/**
 * Puts a stretch of silence in before everything that begins at a beat or later. Clips that lie across are split, notes and
 * sections across last longer, lanes keep their value meanwhile.
 * @throws KinetikonError session.command when the stretch is not longer than nothing
 */
export function insertTime(draft: SessionDocument, edit: TimeEdit): void {
  const { atBeat, beats } = checked(edit);
  splitAt(draft, atBeat, edit.newId);
  for (const clip of ownClips(draft)) if (isBehind(draft, clip, atBeat)) clip.startBeat += beats;
  for (const note of Object.values(draft.notes)) {
    if (note.startBeat >= atBeat) note.startBeat += beats;
    else if (note.startBeat + note.lengthBeats > atBeat) note.lengthBeats += beats;
  }
  for (const section of Object.values(draft.sections)) {
    if (section.startBeat >= atBeat) section.startBeat += beats;
    else if (section.startBeat + section.lengthBeats > atBeat) section.lengthBeats += beats;
  }
  for (const lane of sessionLanes(draft)) {
    const held = endAt(draft, lane, atBeat);
    lane.points = [
      ...lane.points.filter(({ beat }) => beat < atBeat),
      ...(held && atBeat <= lane.points.at(-1)!.beat ? [held, { ...held, beat: atBeat + beats }] : []),
      ...lane.points.filter(({ beat }) => beat >= atBeat).map((one) => ({ ...one, beat: one.beat + beats })),
    ];
  }
  const { session } = draft;
  if (session.loopStartBeat >= atBeat) session.loopStartBeat += beats;
  if (session.loopEndBeat > atBeat) session.loopEndBeat += beats;
}

/**
 * Takes a stretch of time out, with what lies in it; what lies across loses that part, and what comes behind moves up.
 * @throws KinetikonError session.command when the stretch is not longer than nothing
 */
export function deleteTime(draft: SessionDocument, edit: TimeEdit): void {
  const { atBeat, beats } = checked(edit);
  const to = atBeat + beats;
  /** Position of a beat after the edit. */
  const moved = (beat: number) => (beat >= to ? Math.max(atBeat, beat - beats) : Math.min(beat, atBeat));
  splitAt(draft, atBeat, `${edit.newId}-a`);
  splitAt(draft, to, `${edit.newId}-b`);
  for (const clip of ownClips(draft)) {
    if (isBehind(draft, clip, to)) clip.startBeat = Math.max(atBeat, clip.startBeat - beats);
    else if (isBehind(draft, clip, atBeat)) removeClip(draft, clip.id);
  }
  for (const [ones, shortest] of [
    [draft.notes, SHORTEST_NOTE_BEATS],
    [draft.sections, SHORTEST_SECTION_BEATS],
  ] as const) {
    for (const one of Object.values(ones)) {
      const [start, end] = [moved(one.startBeat), moved(one.startBeat + one.lengthBeats)];
      if (end - start < Math.min(shortest, one.lengthBeats)) delete ones[one.id];
      else Object.assign(one, { startBeat: start, lengthBeats: end - start });
    }
  }
  for (const lane of sessionLanes(draft)) {
    // As it was where the stretch began and ended.
    const edges = [endAt(draft, lane, atBeat), pointAt(draft, lane, to)];
    lane.points = [
      ...lane.points.filter(({ beat }) => beat < atBeat),
      ...edges.flatMap((one) => (one ? [{ ...one, beat: atBeat }] : [])),
      ...lane.points.filter(({ beat }) => beat >= to).map((one) => ({ ...one, beat: moved(one.beat) })),
    ];
  }
  const { session } = draft;
  const [start, end] = [moved(session.loopStartBeat), moved(session.loopEndBeat)];
  if (end > start) Object.assign(session, { loopStartBeat: start, loopEndBeat: end });
  else Object.assign(session, { loopOn: false });
}

function checked(edit: TimeEdit): TimeEdit {
  if (edit.beats > 0 && edit.atBeat >= 0) return edit;
  const given = `${edit.beats} beats at beat ${edit.atBeat}`;
  throw new KinetikonError(
    'session.command',
    `Time is put in or taken out from beat 0 on, more than 0 beats, not ${given}.`,
    {
      kept: 'Nothing was changed.',
      next: 'Set a loop that is longer.',
    },
  );
}

/** Clips that lie where they were put; linked ones follow what they are made from. */
function ownClips(draft: SessionDocument): Clip[] {
  return Object.values(draft.clips).filter((clip) => !placedPrintOf(draft, clip));
}

/** Within what a split leaves of a clip, it begins at the beat. */
const isBehind = ({ session }: SessionDocument, clip: Clip, beat: number): boolean =>
  ((clip.startBeat - beat) * 60) / session.tempoBpm > -SHORTEST_CLIP_SECONDS;

function splitAt(draft: SessionDocument, atBeat: number, newId: string): void {
  ownClips(draft).forEach((clip, n) => {
    const into = ((atBeat - clip.startBeat) * 60) / draft.session.tempoBpm;
    if (into < SHORTEST_CLIP_SECONDS || clip.lengthSeconds - into < SHORTEST_CLIP_SECONDS) return;
    splitClip(draft, { id: clip.id, atBeat, newId: `${newId}-${n}` });
  });
}

/** Lanes whose points count from the session's beginning; those of clips move along with them. */
function sessionLanes(draft: SessionDocument): Lane[] {
  return Object.values(draft.lanes).filter(({ ownerId }) => !draft.clips[ownerId]);
}

/** A point with the value that a lane has at a beat behind its first; none where there is one already. */
function pointAt(draft: SessionDocument, lane: Lane, beat: number): Point | null {
  const before = lane.points.findLast((one) => one.beat < beat);
  const after = lane.points.find((one) => one.beat >= beat);
  if (!before || after?.beat === beat) return null;
  if (!after || before.shape === 'hold') return { ...before, beat };
  const height = heightAt(cornersOf(draft, lane, timingOf(draft)), beat)!;
  return { ...before, beat, value: valueAtHeight(laneParameter(draft, lane.ownerId, lane.parameter)!, height) };
}

/** End point of the lane piece that ends at a beat, before any jump there; null if none does. */
function endAt(draft: SessionDocument, lane: Lane, beat: number): Point | null {
  const before = lane.points.findLast((one) => one.beat < beat);
  if (!before || before.shape === 'hold') return null;
  return lane.points.find((one) => one.beat === beat) ?? pointAt(draft, lane, beat);
}
