import { randomUUID } from 'node:crypto';
import { and, desc, eq, sql } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { SessionSummary, StoredSession } from '@/core/protocol/http';
import { EMPTY_HISTORY, type History } from '@/core/session/history';
import { endBeat, type SessionDocument } from '@/core/session/records';
import type { Database } from '../db/client';
import { sessions } from '../db/schema';

const missing = (id: string) =>
  new KinetikonError('session.missing', `There is no session ${id}.`, { next: 'Go back to the list of sessions.' });

/** All sessions, the one changed last first. */
export async function listSessions(db: Database): Promise<SessionSummary[]> {
  const rows = await db.select().from(sessions).orderBy(desc(sessions.updatedAt));
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    revision: row.revision,
    tracks: row.document.session.trackIds.length,
    seconds: (endBeat(row.document) * 60) / row.document.session.tempoBpm,
    picture: pictureOf(row.document),
    updatedAt: row.updatedAt.toISOString(),
  }));
}

function pictureOf(document: SessionDocument): SessionSummary['picture'] {
  const end = endBeat(document);
  return Object.values(document.clips).map((clip) => {
    const lengthBeats = (clip.lengthSeconds * document.session.tempoBpm) / 60;
    return [
      document.session.trackIds.indexOf(clip.trackId),
      clip.startBeat / end,
      (clip.startBeat + lengthBeats) / end,
    ] as const;
  });
}

/** @throws KinetikonError session.missing */
export async function loadSession(db: Database, id: string): Promise<StoredSession> {
  const [row] = await db.select().from(sessions).where(eq(sessions.id, id));
  if (!row) throw missing(id);
  return { id: row.id, revision: row.revision, document: row.document, history: row.history };
}

export async function createSession(
  db: Database,
  document: SessionDocument,
  history: History = EMPTY_HISTORY,
): Promise<StoredSession> {
  const id = randomUUID();
  await db.insert(sessions).values({ id, name: document.session.name, revision: 1, document, history });
  return { id, revision: 1, document, history };
}

/**
 * Saves over the revision the caller has seen.
 * @returns the new revision
 * @throws KinetikonError session.conflict when another save came between, session.missing
 */
export async function saveSession(
  db: Database,
  id: string,
  revision: number,
  document: SessionDocument,
  history: History,
): Promise<number> {
  const saved = await db
    .update(sessions)
    .set({ name: document.session.name, document, history, revision: revision + 1, updatedAt: sql`now()` })
    .where(and(eq(sessions.id, id), eq(sessions.revision, revision)))
    .returning({ revision: sessions.revision });
  if (saved[0]) return saved[0].revision;
  const stored = await loadSession(db, id);
  throw new KinetikonError(
    'session.conflict',
    `The session was saved elsewhere in the meantime (revision ${stored.revision}, not ${revision}).`,
    {
      kept: 'Both versions are kept.',
    },
  );
}

/** @throws KinetikonError session.missing */
export async function removeSession(db: Database, id: string): Promise<void> {
  const removed = await db.delete(sessions).where(eq(sessions.id, id)).returning({ id: sessions.id });
  if (removed.length === 0) throw missing(id);
}
