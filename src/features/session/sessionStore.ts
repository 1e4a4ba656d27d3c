import { createSession, saveSession } from '@/runtime/client/api';
import type { SessionStore } from './saver';

/** Sessions as the server stores them. */
export const sessionStore: SessionStore = {
  save: saveSession,
  create: (id, name, document, history) => createSession(name, { id, document, history }),
};
