import type { Clip } from './clips';
import type { Timing } from '../../effects/noteValues';
import type { SessionRecord } from './session';
import { MAIN_ID, type Strip, type Track, type Return } from './strips';
import type { SessionDocument } from './document';

/** Quarter notes in a bar of the session's metre. */
export function beatsPerBar(session: Pick<SessionRecord, 'metreBeats' | 'metreUnit'>): number {
  return (session.metreBeats * 4) / session.metreUnit;
}

/** Tempo and metre as note values need them. */
export function timingOf({ session }: SessionDocument): Timing {
  return { tempoBpm: session.tempoBpm, beatsPerBar: beatsPerBar(session) };
}

/** A track, a return or a group: all but the main output. */
export function channelOf(document: SessionDocument, stripId: string): Track | Return | undefined {
  return document.tracks[stripId] ?? document.returns[stripId];
}

/** The strip of a track, a return, a group or the main output. */
export function stripOf(document: SessionDocument, stripId: string): Strip | undefined {
  return stripId === MAIN_ID ? document.main : channelOf(document, stripId);
}

/** Tracks, then returns and groups, then the main output, in the order in which they are shown. */
export function allStrips(document: SessionDocument): Strip[] {
  return [...channels(document), document.main];
}

/** Tracks, then returns and groups. */
export function channels(document: SessionDocument): (Track | Return)[] {
  const { trackIds, returnIds } = document.session;
  return [...trackIds.map((one) => document.tracks[one]!), ...returnIds.map((one) => document.returns[one]!)];
}

/** The strip on which an effect stands, or whose place it is. */
export function stripOfInsert(document: SessionDocument, insertId: string): Strip | undefined {
  const placed = channels(document).find(({ placeId }) => placeId === insertId);
  return placed ?? allStrips(document).find((strip) => strip.insertIds.includes(insertId));
}

/** Beat at which a clip ends. */
export const endBeatOf = (
  { session }: Pick<SessionDocument, 'session'>,
  { startBeat, lengthSeconds }: Pick<Clip, 'startBeat' | 'lengthSeconds'>,
): number => startBeat + lengthSeconds * (session.tempoBpm / 60);

/** Beat at which the last clip or note ends. */
export function endBeat(document: SessionDocument): number {
  let end = 0;
  for (const clip of Object.values(document.clips)) end = Math.max(end, endBeatOf(document, clip));
  for (const note of Object.values(document.notes)) end = Math.max(end, note.startBeat + note.lengthBeats);
  return end;
}
