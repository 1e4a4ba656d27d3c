import { KinetikonError } from '../../errors';
import { removeRecord, setRecord } from '../commandHelpers';
import type { Section, SessionRecord } from '../records/session';
import { deleteTime, insertTime, type TimeEdit } from '../timeEdits';
import type { Handlers } from './handlers';

export interface SessionCommands {
  'session.set': { values: Partial<Omit<SessionRecord, 'trackIds' | 'returnIds'>> };
  'section.add': { section: Section };
  'section.set': { id: string; values: Partial<Omit<Section, 'id'>> };
  'section.remove': { id: string };
  /** Inserts silence on all tracks. */
  'time.insert': TimeEdit;
  /** Deletes a range of time from all tracks. */
  'time.delete': TimeEdit;
}

export const sessionHandlers: Handlers<SessionCommands> = {
  'session.set': (draft, { values }) => {
    Object.assign(draft.session, values);
    if (draft.session.loopEndBeat > draft.session.loopStartBeat) return;
    throw new KinetikonError('session.command', 'The loop must end after it starts.', { kept: 'Nothing was changed.' });
  },
  'section.add': (draft, { section }) => {
    draft.sections[section.id] = { ...section };
  },
  'section.set': (draft, { id, values }) => setRecord(draft.sections, 'section', id, values),
  'section.remove': (draft, { id }) => removeRecord(draft.sections, 'section', id),
  'time.insert': insertTime,
  'time.delete': deleteTime,
};
