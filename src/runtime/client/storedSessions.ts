import type { StoredSession } from '@/core/protocol/http';
import { validateDocument } from '@/core/session/document';
import { EMPTY_HISTORY, validateHistory } from '@/core/session/storedHistory';
import { createSession, fetchStoredSession } from './api';

/**
 * A session, brought up to date.
 * @throws KinetikonError those of the server and of `validateDocument`
 */
export async function loadSession(id: string): Promise<StoredSession> {
  const stored = await fetchStoredSession(id);
  const document = validateDocument(stored.document);
  // Steps of an older version do not fit a document that has been brought up to date.
  const history = document === stored.document ? validateHistory(stored.history) : EMPTY_HISTORY;
  return { ...stored, document, history };
}

/**
 * A session with the same contents and undo steps under another name.
 * @param name with a number behind it where another session has it
 */
export async function duplicateSession(id: string, name: string): Promise<void> {
  const { document, history } = await loadSession(id);
  await createSession(name, { document, history, isNameFreed: true });
}
