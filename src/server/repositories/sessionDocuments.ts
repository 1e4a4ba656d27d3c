import { asc, eq, sql } from 'drizzle-orm';
import { freeze } from 'immer';
import { KinetikonError, messageOf } from '@/core/errors';
import { keepNewest } from '@/core/math/keepNewest';
import { applyChanges, type Change } from '@/core/session/changes';
import { DOCUMENT_VERSION, type SessionDocument } from '@/core/session/records/document';
import type { Database, Work } from '../db/database';
import { sessionChanges, sessions } from '../db/schema';
import { needRoom } from '../disk';
import { log } from '../log';
import { summaryOf } from './sessionSummary';
import { addUses, replaceUses } from './soundUses';

/** A document as it is now. */
export interface CurrentDocument {
  readonly revision: number;
  /** The save it is from, as its caller named it. */
  readonly saveId: string | null;
  readonly document: SessionDocument;
}

/** Documents kept in memory: those of sessions that people are working on. */
const MOST_KEPT = 4;
/** Changes after which a snapshot is brought up to date at once ... */
const MOST_CHANGES = 200;
/** ... and how long after the last of fewer, in milliseconds. */
const IDLE_MS = 20000;

/** Next loads this module once for each of its bundles; they share what they know. */
const shared = globalThis as typeof globalThis & {
  kinetikonDocuments?: Map<string, CurrentDocument>;
  kinetikonFolds?: Map<string, NodeJS.Timeout>;
};
const kept = (shared.kinetikonDocuments ??= new Map());
const folds = (shared.kinetikonFolds ??= new Map());

/** Keeps a document that has been stored, or drops it. Call it after the transaction. */
export function keepDocument(id: string, current: CurrentDocument | null): void {
  kept.delete(id);
  if (current) kept.set(id, current);
  else stopFolding(id);
  keepNewest(kept, MOST_KEPT);
}

/**
 * @param purpose to change it: no other transaction can then change the session until this one ends
 * @throws KinetikonError session.missing
 */
export async function currentDocument(
  work: Work,
  id: string,
  purpose: 'read' | 'change' = 'read',
): Promise<CurrentDocument> {
  const found = work
    .select({ revision: sessions.revision, saveId: sessions.saveId })
    .from(sessions)
    .where(eq(sessions.id, id));
  const [row] = await (purpose === 'change' ? found.for('update') : found);
  if (!row) {
    throw new KinetikonError('session.missing', `There is no session ${id}.`, {
      next: 'Go back to the list of sessions.',
    });
  }
  const known = kept.get(id);
  if (known?.revision === row.revision && known.saveId === row.saveId) return known;
  const [stored] = await work.select({ document: sessions.document }).from(sessions).where(eq(sessions.id, id));
  const changes = await work
    .select({ changes: sessionChanges.changes })
    .from(sessionChanges)
    .where(eq(sessionChanges.sessionId, id))
    .orderBy(asc(sessionChanges.revision));
  const document = changes.reduce((so, { changes }) => applyChanges(so, changes), stored!.document);
  return { ...row, document: freeze(document, true) };
}

/**
 * Stores the changes that lead to a document as a new revision.
 * @param saveId names the save; null for a change that is none
 */
export async function storeChanges(
  work: Work,
  id: string,
  before: CurrentDocument,
  document: SessionDocument,
  changes: readonly Change[],
  saveId: string | null,
): Promise<CurrentDocument> {
  const revision = before.revision + 1;
  await work.insert(sessionChanges).values({ sessionId: id, revision, changes });
  await addUses(work, { kind: 'session', ownerId: id }, changes);
  await work
    .update(sessions)
    .set({ name: document.session.name, saveId, revision, updatedAt: sql`now()` })
    .where(eq(sessions.id, id));
  return { revision, saveId, document: freeze(document, true) };
}

/** Stores a whole document as a new revision. */
export async function storeWhole(
  work: Work,
  id: string,
  before: CurrentDocument,
  document: SessionDocument,
  saveId: string | null,
): Promise<CurrentDocument> {
  const revision = before.revision + 1;
  await work
    .update(sessions)
    .set({
      name: document.session.name,
      document,
      summary: await summaryOf(work, document),
      saveId,
      revision,
      updatedAt: sql`now()`,
    })
    .where(eq(sessions.id, id));
  await work.delete(sessionChanges).where(eq(sessionChanges.sessionId, id));
  await replaceUses(work, { kind: 'session', ownerId: id }, document);
  return { revision, saveId, document: freeze(document, true) };
}

/**
 * Brings the snapshot of a session up to date.
 * @throws KinetikonError storage.full
 */
export async function foldChanges(db: Database, id: string): Promise<void> {
  stopFolding(id);
  await needRoom(0);
  await db.transaction(async (work) => {
    const { document } = await currentDocument(work, id, 'change');
    if ((await work.$count(sessionChanges, eq(sessionChanges.sessionId, id))) === 0) return;
    // A document of an older version keeps its summary until somebody opens and saves it.
    const summary = document.version === DOCUMENT_VERSION ? { summary: await summaryOf(work, document) } : {};
    await work
      .update(sessions)
      .set({ document, ...summary })
      .where(eq(sessions.id, id));
    await work.delete(sessionChanges).where(eq(sessionChanges.sessionId, id));
    await replaceUses(work, { kind: 'session', ownerId: id }, document);
  });
}

/** Brings all snapshots up to date, as far as that can be done now; nothing depends on it. */
export async function foldAllChanges(db: Database): Promise<void> {
  const rows = await db.selectDistinct({ id: sessionChanges.sessionId }).from(sessionChanges);
  await foldSome(
    db,
    rows.map(({ id }) => id),
  );
}

/** Brings the snapshots of some sessions up to date, as far as that can be done now. */
export async function foldSome(db: Database, ids: readonly string[]): Promise<void> {
  for (const id of ids) await foldChanges(db, id).catch((error: unknown) => foldFailed(id, error));
}

function stopFolding(id: string): void {
  clearTimeout(folds.get(id));
  folds.delete(id);
}

const foldFailed = (id: string, error: unknown) => log('fold.failed', { id, cause: messageOf(error) });

/** Sees to it that a snapshot is brought up to date, once nobody saves the session or when many changes have come. */
export async function foldLater(db: Database, id: string): Promise<void> {
  const count = await db.$count(sessionChanges, eq(sessionChanges.sessionId, id));
  const fold = () => {
    foldChanges(db, id).catch((error: unknown) => foldFailed(id, error));
  };
  stopFolding(id);
  folds.set(id, setTimeout(fold, count >= MOST_CHANGES ? 0 : IDLE_MS).unref());
}
