import { KinetikonError } from '../errors';
import type { SessionDocument } from './records/document';

/** Helpers of the commands. */

const missing = (what: string) =>
  new KinetikonError('session.command', `There is no ${what}.`, { kept: 'Nothing was changed.' });

/** @throws KinetikonError session.command if the record does not exist */
export function need<T>(record: T | undefined, what: string): T {
  if (record === undefined) throw missing(what);
  return record;
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
