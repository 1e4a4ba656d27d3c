import { KinetikonError } from '@/core/errors';
import type { StoredSession } from '@/core/protocol/http';
import { documentChecksum } from '@/core/session/checksum';
import { validateDocument } from '@/core/session/document';
import { EMPTY_HISTORY, validateHistory } from '@/core/session/storedHistory';
import { cutText } from '@/core/text';
import type { Draft, Drafts } from './drafts';
import type { Savable, SessionStore } from './saver';

/** A session as it is opened, with what had not been saved of it. */
export interface Opening {
  readonly stored: StoredSession;
  /** Goes on in the session; null where there is nothing. */
  readonly unsaved: Savable | null;
  /** Key of the draft that it comes from. */
  readonly draftKey: string | null;
  /** Messages for the user. */
  readonly notes: readonly KinetikonError[];
}

/** The draft as today's version has it; null when it is damaged. */
function readDraft(draft: Draft): Savable | null {
  try {
    const document = validateDocument(draft.document);
    return { document, history: document === draft.document ? validateHistory(draft.history) : EMPTY_HISTORY };
  } catch {
    return null;
  }
}

/**
 * Opens a session and finds unsaved work of it that a reload, a crash or an absent server left in this browser: made
 * from the revision that is stored it goes on in the session, else it becomes a session of its own.
 * @throws KinetikonError those of `load`; drafts stay then
 */
export async function openWithDrafts(
  sessionId: string,
  load: (id: string) => Promise<StoredSession>,
  create: SessionStore['create'],
  drafts: Pick<Drafts, 'left' | 'remove'>,
  newId: () => string,
): Promise<Opening> {
  const left = await drafts.left(sessionId).catch(() => []);
  let stored: StoredSession | null = null;
  try {
    stored = await load(sessionId);
  } catch (error) {
    const isGone = error instanceof KinetikonError && error.code === 'session.missing';
    if (!isGone || left.length === 0) throw error;
  }
  const notes: KinetikonError[] = [];
  let unsaved: Savable | null = null;
  let draftKey: string | null = null;
  for (const draft of left) {
    const work = readDraft(draft);
    if (!work) {
      await drafts.remove(draft.key);
      notes.push(
        new KinetikonError('session.recovered', 'Changes that had not been saved were damaged.', {
          kept: 'What was saved is untouched.',
        }),
      );
      continue;
    }
    if (stored && documentChecksum(work.document) === documentChecksum(stored.document)) {
      await drafts.remove(draft.key);
      continue;
    }
    if (stored && !unsaved && goesOn(draft, stored)) {
      unsaved = work;
      draftKey = draft.key;
      notes.push(
        new KinetikonError('session.recovered', 'Changes that had not been saved are back.', {
          kept: 'They are being saved now; undo takes them back.',
        }),
      );
      continue;
    }
    const name = `${cutText(work.document.session.name, 100)}, unsaved`;
    const copy = await create(newId(), name, work.document, work.history);
    await drafts.remove(draft.key);
    notes.push(
      new KinetikonError('session.recovered', 'Changes that had not been saved did not fit the session any more.', {
        kept: `They are kept in a session of their own, "${name}".`,
        next: 'It is in the list of sessions.',
      }),
    );
    stored ??= copy;
  }
  return { stored: stored!, unsaved, draftKey, notes };
}

/** True if a draft was made from what is stored, or from what a save of its own led to. */
function goesOn({ revision, unanswered }: Draft, stored: StoredSession): boolean {
  return revision === stored.revision || (stored.saveId !== null && unanswered.includes(stored.saveId));
}
