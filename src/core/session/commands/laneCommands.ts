import { need, removeLane, removeRecord, setRecord } from '../commandHelpers';
import type { Lane, Note } from '../records/lanes';
import type { Handlers } from './handlers';

/** The fields of a note that change. */
export type NoteChange = { readonly id: string } & Partial<Omit<Note, 'id' | 'ownerId'>>;

export interface LaneCommands {
  'note.add': { notes: readonly Note[] };
  'note.set': { changes: readonly NoteChange[] };
  'note.remove': { ids: readonly string[] };
  'lane.add': { lane: Lane };
  'lane.set': { id: string; values: Partial<Omit<Lane, 'id' | 'ownerId' | 'parameter'>> };
  'lane.remove': { id: string };
}

export const laneHandlers: Handlers<LaneCommands> = {
  'note.add': (draft, { notes }) => {
    for (const note of notes) draft.notes[note.id] = { ...note };
  },
  'note.set': (draft, { changes }) => {
    for (const { id, ...values } of changes) setRecord(draft.notes, 'note', id, values);
  },
  'note.remove': (draft, { ids }) => {
    for (const id of ids) removeRecord(draft.notes, 'note', id);
  },
  'lane.add': (draft, { lane }) => {
    draft.lanes[lane.id] = { ...lane };
  },
  'lane.set': (draft, { id, values }) => setRecord(draft.lanes, 'lane', id, values),
  'lane.remove': (draft, { id }) => {
    need(draft.lanes[id], `lane ${id}`);
    removeLane(draft, id);
  },
};
