import { KinetikonError } from '../errors';
import { channelOf, stripOf } from './records/queries';
import type { SessionDocument } from './records/document';
import type { Return, Strip, Track } from './records/strips';

/** Helpers of the commands. They throw KinetikonError session.command if a record does not exist. */

const missing = (what: string) =>
  new KinetikonError('session.command', `There is no ${what}.`, { kept: 'Nothing was changed.' });

export function need<T>(record: T | undefined, what: string): T {
  if (record === undefined) throw missing(what);
  return record;
}

export const stripIn = (draft: SessionDocument, id: string): Strip => need(stripOf(draft, id), `track ${id}`);

export const channelIn = (draft: SessionDocument, id: string): Track | Return =>
  need(channelOf(draft, id), `track ${id}`);

/** @param kind of the record, as the message names it */
export function setRecord<T extends object>(
  records: Record<string, T>,
  kind: string,
  id: string,
  values: Partial<T>,
): void {
  Object.assign(need(records[id], `${kind} ${id}`), values);
}

/** @param kind of the record, as the message names it */
export function removeRecord(records: Record<string, object>, kind: string, id: string): void {
  need(records[id], `${kind} ${id}`);
  delete records[id];
}

/** Inserts an id into a list at an index, which is clamped to the list. */
export function insertAt(list: string[], index: number, id: string): void {
  list.splice(Math.max(0, Math.min(list.length, index)), 0, id);
}

export function removeLane(draft: SessionDocument, id: string): void {
  for (const lane of Object.values(draft.lanes)) if (lane.mirrorOf === id) lane.mirrorOf = null;
  delete draft.lanes[id];
}

/** Removes the lanes, notes and comparison of a record that is removed. */
export function removeOwned(draft: SessionDocument, ownerId: string): void {
  for (const lane of Object.values(draft.lanes)) if (lane.ownerId === ownerId) removeLane(draft, lane.id);
  for (const note of Object.values(draft.notes)) if (note.ownerId === ownerId) delete draft.notes[note.id];
  delete draft.comparisons[ownerId];
}
