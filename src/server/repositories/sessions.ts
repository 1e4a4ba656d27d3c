import { randomUUID } from 'node:crypto';
import { and, asc, eq, gte, isNull, lt, or, sql } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { ChangeSessionRequest, SaveSessionRequest, StoredSession } from '@/core/protocol/http';
import { applyChanges, validateTouched, type Change } from '@/core/session/changes';
import { documentChecksum } from '@/core/session/checksum';
import { historyChange, historyOf } from '@/core/session/history';
import { EMPTY_HISTORY, type History, type HistoryChange } from '@/core/session/storedHistory';
import { freeName as nameBeside } from '@/core/session/freeName';
import { DOCUMENT_VERSION, type SessionDocument } from '@/core/session/records/document';
import { lockUntilEnd, NAMES } from '../db/advisoryLocks';
import type { Database, Work } from '../db/database';
import { sessions, sessionSteps } from '../db/schema';
import { currentDocument, foldLater, keepDocument, storeChanges, storeWhole } from './sessionDocuments';
import { summaryOf } from './sessionSummary';
import { addStepUses, addUses, dropStepUses, dropUses } from './soundUses';

/** Works out the summaries of sessions that were saved by a version without them: to be called at start. */
export async function summarize(db: Database): Promise<void> {
  const rows = await db.select({ id: sessions.id }).from(sessions).where(isNull(sessions.summary));
  for (const { id } of rows) {
    const [row] = await db.select({ document: sessions.document }).from(sessions).where(eq(sessions.id, id));
    if (row)
      await db
        .update(sessions)
        .set({ summary: await summaryOf(db, row.document) })
        .where(and(eq(sessions.id, id), isNull(sessions.summary)));
  }
}

/** @throws KinetikonError session.missing */
export async function loadSession(db: Database, id: string): Promise<StoredSession> {
  // All of it as it was at one moment.
  const isolation = { isolationLevel: 'repeatable read', accessMode: 'read only' } as const;
  const { current, history } = await db.transaction(async (work) => {
    const current = await currentDocument(work, id);
    const [row] = await work.select({ stepCursor: sessions.stepCursor }).from(sessions).where(eq(sessions.id, id));
    const steps = await work
      .select()
      .from(sessionSteps)
      .where(eq(sessionSteps.sessionId, id))
      .orderBy(asc(sessionSteps.number));
    const { stepCursor } = row!;
    const history = historyOf(
      steps.map(({ step }) => step),
      steps[0]?.number ?? stepCursor,
      stepCursor,
    );
    return { current, history };
  }, isolation);
  keepDocument(id, current);
  return { id, ...current, history };
}

interface NewSession {
  readonly history?: History;
  /** Chosen by the caller, or left to the server. */
  readonly id?: string | undefined;
  /** A number is put behind the name where another session has it. */
  readonly isNameFreed?: boolean;
  readonly fromDemo?: boolean;
}

/** Makes a session, once for each id: asked for again it answers with what is there. */
export async function createSession(
  db: Database,
  asked: SessionDocument,
  { history = EMPTY_HISTORY, id = randomUUID(), isNameFreed = false, fromDemo = false }: NewSession = {},
): Promise<StoredSession> {
  await db.transaction(async (work) => {
    const name = isNameFreed ? await freeName(work, asked.session.name) : asked.session.name;
    const document = { ...asked, session: { ...asked.session, name } };
    const made = await work
      .insert(sessions)
      .values({ id, name, revision: 1, document, fromDemo, summary: await summaryOf(work, document) })
      .onConflictDoNothing()
      .returning({ id: sessions.id });
    if (made.length === 0) return;
    await addUses(work, { kind: 'session', ownerId: id }, document);
    await storeSteps(work, id, historyChange(EMPTY_HISTORY, history));
  });
  return loadSession(db, id);
}

/** A name that no session has: with a number behind it where the name itself is taken. It stays free until the end. */
async function freeName(work: Work, name: string): Promise<string> {
  await lockUntilEnd(work, NAMES);
  const taken = new Set((await work.select({ name: sessions.name }).from(sessions)).map((row) => row.name));
  return nameBeside(taken, name, (attempt) => (attempt === 1 ? '' : ` ${attempt}`));
}

async function storeSteps(work: Work, sessionId: string, change: HistoryChange): Promise<void> {
  const { keep, append, first, cursor } = change;
  const outside = or(gte(sessionSteps.number, keep), lt(sessionSteps.number, first));
  await work.delete(sessionSteps).where(and(eq(sessionSteps.sessionId, sessionId), outside));
  await dropStepUses(work, sessionId, first, keep);
  if (append.length > 0) {
    await work.insert(sessionSteps).values(append.map((step, n) => ({ sessionId, number: keep + n, step })));
    await addStepUses(work, sessionId, new Map(append.map((step, n) => [keep + n, step])));
  }
  await work.update(sessions).set({ stepCursor: cursor }).where(eq(sessions.id, sessionId));
}

/**
 * Saves over the revision the caller has seen, or over a save of its own whose answer it has not got.
 * @returns the new revision
 * @throws KinetikonError session.conflict when another save came between, session.diverged when the changes do not lead
 * to the document that the caller has, session.missing
 */
export async function saveSession(db: Database, id: string, request: SaveSessionRequest): Promise<number> {
  const { revision, saveId, unanswered, changes = [], document, history } = request;
  const saved = await db.transaction(async (work) => {
    const before = await currentDocument(work, id, 'change');
    if (before.revision !== revision && !(before.saveId !== null && unanswered.includes(before.saveId))) {
      throw new KinetikonError(
        'session.conflict',
        `The session was saved elsewhere in the meantime (revision ${before.revision}, not ${revision}).`,
        { kept: 'Both versions are kept.' },
      );
    }
    const next = document ?? changed(before.document, changes);
    if (documentChecksum(next) !== request.checksum) throw diverged();
    const after = document
      ? await storeWhole(work, id, before, next, saveId)
      : await storeChanges(work, id, before, next, changes, saveId);
    await storeSteps(work, id, history);
    return after;
  });
  keepDocument(id, saved);
  await foldLater(db, id);
  return saved.revision;
}

const diverged = (cause?: unknown) =>
  new KinetikonError('session.diverged', 'These changes do not fit the session that is stored.', {
    kept: 'What was saved before is untouched.',
    next: 'The whole session has to be sent.',
    cause,
  });

function changed(before: SessionDocument, changes: readonly Change[]): SessionDocument {
  // The caller has brought it up to date.
  if (before.version !== DOCUMENT_VERSION) throw diverged();
  try {
    const document = applyChanges(before, changes);
    validateTouched(document, changes);
    return document;
  } catch (error) {
    throw error instanceof KinetikonError ? diverged(error) : error;
  }
}

/**
 * Renames a session, puts it into the bin, or takes it out again.
 * @throws KinetikonError session.missing
 */
export async function changeSession(db: Database, id: string, { name, binned }: ChangeSessionRequest): Promise<void> {
  const renamed = await db.transaction(async (work) => {
    const before = await currentDocument(work, id, 'change');
    if (binned !== undefined) {
      await work
        .update(sessions)
        .set({ binnedAt: binned ? sql`now()` : null })
        .where(eq(sessions.id, id));
    }
    if (name === undefined) return null;
    const changes = [{ op: 'replace' as const, path: ['session', 'name'], value: name }];
    return storeChanges(work, id, before, applyChanges(before.document, changes), changes, null);
  });
  if (!renamed) return;
  keepDocument(id, renamed);
  await foldLater(db, id);
}

/** @throws KinetikonError session.missing */
export async function removeSession(db: Database, id: string): Promise<void> {
  await db.transaction(async (work) => {
    await currentDocument(work, id, 'change');
    await work.delete(sessions).where(eq(sessions.id, id));
    for (const kind of ['session', 'step'] as const) await dropUses(work, { kind, ownerId: id });
  });
  keepDocument(id, null);
}
