import { randomUUID } from 'node:crypto';
import { and, asc, desc, eq, gte, inArray, isNull, lt, or, sql } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { ChangeSessionRequest, SaveSessionRequest, SessionSummary, StoredSession } from '@/core/protocol/http';
import { EMPTY_HISTORY, historyChange, historyOf, type History, type HistoryChange } from '@/core/session/history';
import { freeName as nameBeside } from '@/core/session/freeName';
import { soundOf } from '@/core/session/prints';
import { endBeat, type SessionDocument } from '@/core/session/records';
import type { Database } from '../db/client';
import { assets, sessions, sessionSteps, type Summary } from '../db/schema';
import { levelsOf, outlinesOf } from '../sounds/outlines';

const missing = (id: string) =>
  new KinetikonError('session.missing', `There is no session ${id}.`, { next: 'Go back to the list of sessions.' });

type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

/** All sessions, the one changed last first. */
export async function listSessions(db: Database): Promise<SessionSummary[]> {
  const { id, name, revision, summary, updatedAt, binnedAt } = sessions;
  const rows = await db
    .select({ id, name, revision, summary, updatedAt, binnedAt })
    .from(sessions)
    .orderBy(desc(sessions.updatedAt));
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    revision: row.revision,
    ...(row.summary ?? { tracks: 0, seconds: 0, picture: [] }),
    updatedAt: row.updatedAt.toISOString(),
    binnedAt: row.binnedAt?.toISOString() ?? null,
  }));
}

/** Levels that a clip as long as the session is drawn by. */
const MOST_LEVELS = 120;

async function summaryOf(db: Pick<Database, 'select'>, document: SessionDocument): Promise<Summary> {
  const end = endBeat(document);
  const { tempoBpm, trackIds } = document.session;
  const outlines = await outlinesOf(db, Object.keys(document.assets));
  return {
    tracks: trackIds.length,
    seconds: (end * 60) / tempoBpm,
    picture: Object.values(document.clips).map((clip) => {
      const from = clip.startBeat / end;
      const to = from + (clip.lengthSeconds * tempoBpm) / 60 / end;
      const asset = document.assets[soundOf(document, clip.source) ?? ''];
      const outline = asset && outlines.get(asset.id);
      const lane = trackIds.indexOf(clip.trackId);
      if (!outline) return [lane, from, to] as const;
      const seconds = asset.frames / asset.sampleRateHz;
      const ends = [clip.offsetSeconds / seconds, (clip.offsetSeconds + clip.lengthSeconds) / seconds] as const;
      const count = Math.max(1, Math.min(MOST_LEVELS, Math.round((to - from) * MOST_LEVELS)));
      const levels = levelsOf(outline, ...ends, count);
      return [lane, from, to, clip.reversed ? [...levels].reverse().join('') : levels] as const;
    }),
  };
}

/** Works out the summaries of sessions that were saved by a version without them: to be called at start. */
export async function summarize(db: Database): Promise<void> {
  const rows = await db.select({ id: sessions.id }).from(sessions).where(isNull(sessions.summary));
  for (const { id } of rows) {
    const [row] = await db.select({ document: sessions.document }).from(sessions).where(eq(sessions.id, id));
    if (row)
      await db
        .update(sessions)
        .set({ summary: await summaryOf(db, row.document) })
        .where(eq(sessions.id, id));
  }
}

/** @throws KinetikonError session.missing */
export async function loadSession(db: Database, id: string): Promise<StoredSession> {
  return db.transaction(async (work) => {
    const [row] = await work.select().from(sessions).where(eq(sessions.id, id));
    if (!row) throw missing(id);
    const steps = await work
      .select()
      .from(sessionSteps)
      .where(eq(sessionSteps.sessionId, id))
      .orderBy(asc(sessionSteps.number));
    const history = historyOf(
      steps.map(({ step }) => step),
      steps[0]?.number ?? row.stepCursor,
      row.stepCursor,
    );
    return { id, revision: row.revision, document: row.document, history };
  });
}

/**
 * Makes a session, once for each id: asked for again it answers with what is there.
 * @param id chosen by the caller, or left to the server
 */
export async function createSession(
  db: Database,
  document: SessionDocument,
  history: History = EMPTY_HISTORY,
  id: string = randomUUID(),
): Promise<StoredSession> {
  await db.transaction(async (work) => {
    const made = await work
      .insert(sessions)
      .values({ id, name: document.session.name, revision: 1, document, summary: await summaryOf(work, document) })
      .onConflictDoNothing()
      .returning({ id: sessions.id });
    if (made.length > 0) await storeSteps(work, id, historyChange(EMPTY_HISTORY, history));
  });
  return loadSession(db, id);
}

async function storeSteps(work: Transaction, sessionId: string, change: HistoryChange): Promise<void> {
  const { keep, append, first, cursor } = change;
  const outside = or(gte(sessionSteps.number, keep), lt(sessionSteps.number, first));
  await work.delete(sessionSteps).where(and(eq(sessionSteps.sessionId, sessionId), outside));
  if (append.length > 0) {
    await work.insert(sessionSteps).values(append.map((step, n) => ({ sessionId, number: keep + n, step })));
  }
  await work.update(sessions).set({ stepCursor: cursor }).where(eq(sessions.id, sessionId));
}

/**
 * Saves over the revision the caller has seen, or over a save of its own whose answer it has not got.
 * @returns the new revision
 * @throws KinetikonError session.conflict when another save came between, session.missing
 */
export async function saveSession(db: Database, id: string, request: SaveSessionRequest): Promise<number> {
  const { revision, saveId, unanswered, document, history } = request;
  return db.transaction(async (work) => {
    const known = or(
      eq(sessions.revision, revision),
      ...(unanswered.length > 0 ? [inArray(sessions.saveId, [...unanswered])] : []),
    );
    const [saved] = await work
      .update(sessions)
      .set({
        name: document.session.name,
        document,
        summary: await summaryOf(work, document),
        saveId,
        revision: sql`${sessions.revision} + 1`,
        updatedAt: sql`now()`,
      })
      .where(and(eq(sessions.id, id), known))
      .returning({ revision: sessions.revision });
    if (saved) {
      await storeSteps(work, id, history);
      return saved.revision;
    }
    const [stored] = await work.select({ revision: sessions.revision }).from(sessions).where(eq(sessions.id, id));
    if (!stored) throw missing(id);
    throw new KinetikonError(
      'session.conflict',
      `The session was saved elsewhere in the meantime (revision ${stored.revision}, not ${revision}).`,
      { kept: 'Both versions are kept.' },
    );
  });
}

/**
 * Renames a session, puts it into the bin, or takes it out again.
 * @throws KinetikonError session.missing
 */
export async function changeSession(db: Database, id: string, change: ChangeSessionRequest): Promise<void> {
  await db.transaction(async (work) => {
    const [row] = await work.select({ document: sessions.document }).from(sessions).where(eq(sessions.id, id));
    if (!row) throw missing(id);
    const { name, binned } = change;
    const renamed = (to: string) => {
      const { document } = row;
      return {
        name: to,
        document: { ...document, session: { ...document.session, name: to } },
        revision: sql`${sessions.revision} + 1`,
        updatedAt: sql`now()`,
      };
    };
    const values = {
      ...(name === undefined ? {} : renamed(name)),
      ...(binned === undefined ? {} : { binnedAt: binned ? sql`now()` : null }),
    };
    if (Object.keys(values).length > 0) await work.update(sessions).set(values).where(eq(sessions.id, id));
  });
}

/** A name that no session has: with a number behind it where the name itself is taken. */
export async function freeName(db: Database, name: string): Promise<string> {
  const taken = new Set((await db.select({ name: sessions.name }).from(sessions)).map((row) => row.name));
  return nameBeside(taken, name, (attempt) => (attempt === 1 ? '' : ` ${attempt}`));
}

/** @throws KinetikonError session.missing */
export async function removeSession(db: Database, id: string): Promise<void> {
  await db.transaction(async (work) => {
    const [removed] = await work
      .delete(sessions)
      .where(eq(sessions.id, id))
      .returning({ sounds: sql<string[]>`array(select jsonb_object_keys(${sessions.document} -> 'assets'))` });
    if (!removed) throw missing(id);
    if (removed.sounds.length > 0) {
      await work
        .update(assets)
        .set({ usedAt: sql`now()` })
        .where(inArray(assets.id, removed.sounds));
    }
  });
}
