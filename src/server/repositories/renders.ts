import { createHash, randomUUID } from 'node:crypto';
import { and, count, desc, eq, gte, inArray, isNotNull, lt, not, notInArray, or, sql, type SQL } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { Render, RenderError, RenderFacts, RenderOrder } from '@/core/protocol/renders';
import { isUnderWay, UNDER_WAY, type RenderState } from '@/core/protocol/renderStates';
import { assetOfSound } from '@/core/session/records/sounds';
import { RENDER_VERSIONS, renderIdentity, renderWork, type RenderRequest } from '@/core/session/renderRequests';
import { gathered } from '../blobs/pieces';
import { daysAgo, secondsAgo } from '../db/ago';
import type { Database, Work } from '../db/database';
import { renders, workers } from '../db/schema';
import { queueOf } from '../renders/renderQueue';
import type { Parts } from '../blobs/pieces';
import { abandonBlobs, readBlob, storeBlob } from './blobs';
import { addUses, dropUses } from './soundUses';

/** Larger requests lie in a blob. */
const MOST_INLINE_BYTES = 64 * 1024;
/** Priority that puts renders a person waits for before batches. */
const WAITED_FOR = 1_000_000;
/** A worker without a heartbeat for so long counts as dead; one is written every 2 s. */
const DEAD_AFTER_SECONDS = 5;
/** A render whose workers died so often is given up. */
const MOST_ATTEMPTS = 5;
/** Days for which renders that have ended are kept. */
const KEPT_DAYS = 7;

/** These are begun anew when they are asked for again. */
const VAIN: RenderState[] = ['failed', 'cancelled'];

/** A worker with a heartbeat. */
const isAlive = gte(workers.beatAt, secondsAgo(DEAD_AFTER_SECONDS));

const missing = (id: string) =>
  new KinetikonError('render.missing', `There is no render ${id}.`, { next: 'Ask for it again.' });

/** Columns of the list: all but the request. */
const listed = {
  id: renders.id,
  kind: renders.kind,
  name: renders.name,
  sessionId: renders.sessionId,
  state: renders.state,
  progress: renders.progress,
  machine: renders.machine,
  engineVersion: renders.engineVersion,
  documentVersion: renders.documentVersion,
  result: renders.result,
  resultBytes: renders.resultBytes,
  error: renders.error,
  createdAt: renders.createdAt,
  startedAt: renders.startedAt,
  endedAt: renders.endedAt,
};

type Listed = Pick<typeof renders.$inferSelect, keyof typeof listed>;

/** Versions that workers which are alive can run, as `engine-document`. */
async function aliveVersions(db: Database): Promise<ReadonlySet<string>> {
  if (!queueOf(db).isShared) return new Set([`${RENDER_VERSIONS.engine}-${RENDER_VERSIONS.document}`]);
  const rows = await db
    .selectDistinct({ engine: workers.engineVersion, document: workers.documentVersion })
    .from(workers)
    .where(isAlive);
  return new Set(rows.map(({ engine, document }) => `${engine}-${document}`));
}

function toRender(row: Listed, alive: ReadonlySet<string>): Render {
  const { engineVersion, documentVersion, createdAt, startedAt, endedAt, ...rest } = row;
  const isStuck = row.state === 'waiting' && !alive.has(`${engineVersion}-${documentVersion}`);
  return {
    ...rest,
    waitsFor: isStuck ? `a worker of engine ${engineVersion} and document ${documentVersion}` : null,
    createdAt: createdAt.toISOString(),
    startedAt: startedAt?.toISOString() ?? null,
    endedAt: endedAt?.toISOString() ?? null,
  };
}

/**
 * Renders, the newest first.
 * @param sessionId those of one session alone
 */
export async function listRenders(db: Database, sessionId?: string): Promise<Render[]> {
  const rows = await db
    .select(listed)
    .from(renders)
    .where(sessionId === undefined ? undefined : eq(renders.sessionId, sessionId))
    .orderBy(desc(renders.createdAt), desc(renders.id))
    .limit(200);
  const alive = await aliveVersions(db);
  return rows.map((row) => toRender(row, alive));
}

/** @throws KinetikonError render.missing */
export async function findRender(db: Database, id: string): Promise<Render> {
  const [row] = await db.select(listed).from(renders).where(eq(renders.id, id));
  if (!row) throw missing(id);
  return toRender(row, await aliveVersions(db));
}

/**
 * Asks for a render; the same one is made once. One that failed or was cancelled is begun anew.
 * @throws KinetikonError what compiling the request throws
 */
export async function orderRender(db: Database, order: RenderOrder): Promise<Render> {
  const { request, name, sessionId = null, isBatch = false } = order;
  const { soundIds } = renderWork(request);
  const key = createHash('sha256').update(renderIdentity(request)).digest('hex');
  const [before] = await db.select({ id: renders.id, state: renders.state }).from(renders).where(eq(renders.key, key));
  if (before && !VAIN.includes(before.state)) return findRender(db, before.id);
  const bytes = Buffer.from(JSON.stringify(request));
  const record = (work: Work, requestBlob: string | null) =>
    recordOrder(work, db, {
      row: {
        id: randomUUID(),
        key,
        kind: request.kind,
        name,
        sessionId,
        request: requestBlob === null ? request : null,
        requestBlob,
        requestBytes: bytes.length,
        engineVersion: RENDER_VERSIONS.engine,
        documentVersion: RENDER_VERSIONS.document,
        state: 'waiting',
      },
      assetIds: soundIds.map((id) => assetOfSound(id).assetId),
      isBatch,
    });
  const id =
    bytes.length <= MOST_INLINE_BYTES
      ? await db.transaction((work) => record(work, null))
      : await storeBlob(db, name, [bytes], record);
  return findRender(db, id);
}

interface Recorded {
  readonly row: Omit<typeof renders.$inferInsert, 'priority'>;
  readonly assetIds: readonly string[];
  readonly isBatch: boolean;
}

/** @returns the id of the render, which may have been there */
async function recordOrder(work: Work, db: Database, { row, assetIds, isBatch }: Recorded): Promise<string> {
  // Each further render of a session comes after the first ones of others.
  const owner = row.sessionId ?? row.name;
  const [others] = await work
    .select({ count: count() })
    .from(renders)
    .where(and(inArray(renders.state, [...UNDER_WAY]), or(eq(renders.sessionId, owner), eq(renders.name, owner))));
  const priority = (isBatch ? 0 : WAITED_FOR) - others!.count;
  const fresh = { progress: 0, attempt: 0, workerId: null, machine: null, error: null, startedAt: null, endedAt: null };
  const [made] = await work
    .insert(renders)
    .values({ ...row, priority })
    .onConflictDoUpdate({
      target: renders.key,
      set: { ...fresh, state: 'waiting', priority, createdAt: sql`now()` },
      setWhere: inArray(renders.state, VAIN),
    })
    .returning({ id: renders.id, requestBlob: renders.requestBlob });
  if (row.requestBlob && made?.requestBlob !== row.requestBlob) await abandonBlobs(work, [row.requestBlob]);
  if (!made) {
    const [there] = await work.select({ id: renders.id }).from(renders).where(eq(renders.key, row.key));
    return there!.id;
  }
  await addUses(work, { kind: 'render', ownerId: made.id }, assetIds);
  await queueOf(db).send(work, made.id, priority);
  return made.id;
}

/**
 * Ends a render that waits or runs; one that has ended is removed from the list.
 * @throws KinetikonError render.missing
 */
export async function cancelRender(db: Database, id: string): Promise<void> {
  await db.transaction(async (work) => {
    const [row] = await work.select().from(renders).where(eq(renders.id, id)).for('update');
    if (!row) throw missing(id);
    if (!isUnderWay(row)) return removeRenders(work, [row]);
    // Who takes one that waited, and has no job of its own yet, finds it cancelled.
    await endRender(db, work, row, eq(renders.id, id), { state: 'cancelled' });
  });
}

/**
 * Ends a render: its job leaves the queue, and its sounds are no longer held.
 * @returns false, and nothing has changed, when the condition does not hold
 */
async function endRender(
  db: Database,
  work: Work,
  { id, queueJob }: { readonly id: string; readonly queueJob: string | null },
  condition: SQL | undefined,
  values: Partial<typeof renders.$inferInsert>,
): Promise<boolean> {
  const ended = await work
    .update(renders)
    .set({ ...values, endedAt: sql`now()`, workerId: null, queueJob: null })
    .where(condition)
    .returning({ id: renders.id });
  if (ended.length === 0) return false;
  await queueOf(db).end(work, queueJob);
  await dropUses(work, { kind: 'render', ownerId: id });
  return true;
}

/** Removes renders that have ended. */
async function removeRenders(work: Work, rows: readonly (typeof renders.$inferSelect)[]): Promise<void> {
  const blobs = rows.flatMap(({ requestBlob, resultBlob }) => [requestBlob, resultBlob]).filter((id) => id !== null);
  if (blobs.length > 0) await abandonBlobs(work, blobs);
  await work.delete(renders).where(
    inArray(
      renders.id,
      rows.map(({ id }) => id),
    ),
  );
}

/** Removes renders that ended a while ago, with their results. */
export async function sweepRenders(db: Database, days = KEPT_DAYS): Promise<number> {
  return db.transaction(async (work) => {
    const old = await work
      .select()
      .from(renders)
      .where(and(notInArray(renders.state, [...UNDER_WAY]), lt(renders.endedAt, daysAgo(days))))
      .limit(1000)
      .for('update');
    if (old.length > 0) await removeRenders(work, old);
    return old.length;
  });
}

/**
 * Bytes of the sound file that came out.
 * @throws KinetikonError render.missing, also while it has not been made
 */
export async function renderResult(
  db: Database,
  id: string,
): Promise<{ bytes: number; read: (from: number, to: number) => AsyncGenerator<Uint8Array> }> {
  const [row] = await db
    .select()
    .from(renders)
    .where(and(eq(renders.id, id), isNotNull(renders.resultBlob)));
  if (!row) throw missing(id);
  const bytes = row.resultBytes!;
  const damaged = (why: string) =>
    new KinetikonError('asset.damaged', `The file of ${row.name} is damaged: ${why}.`, { next: 'Render it again.' });
  return { bytes, read: (from, to) => readBlob(db, row.resultBlob!, bytes, from, to, damaged) };
}

async function requestOf(db: Database, row: typeof renders.$inferSelect): Promise<RenderRequest> {
  if (row.request) return row.request;
  const damaged = (why: string) =>
    new KinetikonError('asset.damaged', `What ${row.name} is rendered from is damaged: ${why}.`, {
      next: 'Ask for it again.',
    });
  const bytes = await gathered(readBlob(db, row.requestBlob!, row.requestBytes, 0, Infinity, damaged));
  return JSON.parse(bytes.toString()) as RenderRequest;
}

/** Who runs renders. */
export interface WorkerIdentity {
  readonly id: string;
  /** Name of the machine. */
  readonly machine: string;
}

/** A render that a worker has begun. */
export interface Begun {
  readonly id: string;
  readonly attempt: number;
  readonly queueJob: string | null;
  readonly name: string;
  readonly request: RenderRequest;
}

/** Takes the next render for a worker; null while there is none. */
export async function beginRender(db: Database, worker: WorkerIdentity): Promise<Begun | null> {
  const row = await db.transaction(async (work) => {
    const taken = await queueOf(db).take(work);
    if (!taken) return null;
    const [begun] = await work
      .update(renders)
      .set({
        state: 'running',
        attempt: sql`${renders.attempt} + 1`,
        progress: 0,
        workerId: worker.id,
        machine: worker.machine,
        queueJob: taken.queueJob,
        startedAt: sql`now()`,
      })
      .where(and(eq(renders.id, taken.renderId), eq(renders.state, 'waiting')))
      .returning();
    // It was cancelled in the meantime.
    if (!begun) await queueOf(db).end(work, taken.queueJob);
    return begun ?? 'gone';
  });
  if (row === 'gone') return beginRender(db, worker);
  if (row === null) return null;
  const { id, attempt, queueJob, name } = row;
  const own = { id, attempt, queueJob, name };
  try {
    return { ...own, request: await requestOf(db, row) };
  } catch (error) {
    await failRender(db, own, error);
    return beginRender(db, worker);
  }
}

type Running = Pick<Begun, 'id' | 'attempt' | 'queueJob' | 'name'>;

/** True for a render as long as this attempt of it is the current one. */
const isCurrent = ({ id, attempt }: Running) =>
  and(eq(renders.id, id), eq(renders.attempt, attempt), eq(renders.state, 'running'));

/** Says how far a render is; false when it was cancelled or another worker has it. */
export async function tellProgress(db: Database, running: Running, progress: number): Promise<boolean> {
  const rows = await db.update(renders).set({ progress }).where(isCurrent(running)).returning({ id: renders.id });
  return rows.length > 0;
}

/** Thrown within the transaction that would keep a result which nobody waits for any more. */
class Outrun extends Error {}

/** Keeps the result of a render; false when it was cancelled or another worker has it: then nothing is kept. */
export async function finishRender(
  db: Database,
  running: Running,
  facts: RenderFacts,
  file: { readonly bytes: number; readonly body: Parts } | null,
): Promise<boolean> {
  const finish = async (work: Work, resultBlob: string | null) => {
    const values = {
      state: 'done' as const,
      progress: 1,
      result: facts,
      resultBlob,
      resultBytes: file?.bytes ?? null,
    };
    if (!(await endRender(db, work, running, isCurrent(running), values))) throw new Outrun();
  };
  try {
    if (file) await storeBlob(db, running.name, file.body, finish);
    else await db.transaction((work) => finish(work, null));
    return true;
  } catch (error) {
    if (error instanceof Outrun) return false;
    throw error;
  }
}

/** Ends a render with the error that it met. */
export async function failRender(db: Database, running: Running, error: unknown): Promise<void> {
  const { code, message, kept, next } =
    error instanceof KinetikonError
      ? error
      : { code: 'engine.stopped', message: 'The render broke off.', kept: undefined, next: 'Ask for it again.' };
  const told: RenderError = { code, message, kept, next };
  await db.transaction((work) => endRender(db, work, running, isCurrent(running), { state: 'failed', error: told }));
}

/** Gives renders back that a worker leaves, to be begun again; one that has been begun too often fails. */
async function giveBack(db: Database, work: Work, workerId: string): Promise<void> {
  const left = await work
    .select()
    .from(renders)
    .where(and(eq(renders.workerId, workerId), eq(renders.state, 'running')))
    .for('update');
  for (const row of left) {
    if (row.attempt < MOST_ATTEMPTS) {
      await work
        .update(renders)
        .set({ state: 'waiting', workerId: null, queueJob: null, machine: null, progress: 0, startedAt: null })
        .where(eq(renders.id, row.id));
      await queueOf(db).giveBack(work, row.queueJob);
      continue;
    }
    const error = { code: 'engine.stopped', message: `Its workers broke off ${row.attempt} times.` };
    await endRender(db, work, row, eq(renders.id, row.id), { state: 'failed', error });
  }
}

/** Number of renders in each state. */
export async function countRenders(db: Database): Promise<ReadonlyMap<RenderState, number>> {
  const rows = await db.select({ state: renders.state, count: count() }).from(renders).groupBy(renders.state);
  return new Map(rows.map(({ state, count }) => [state, count]));
}

/** Number of workers with a heartbeat; where the server runs renders itself, that one. */
export async function countWorkers(db: Database): Promise<number> {
  if (!queueOf(db).isShared) return 1;
  return db.$count(workers, isAlive);
}

/** Writes the heartbeat of a worker. */
export async function beat(db: Database, { id, machine }: WorkerIdentity, jobs: number): Promise<void> {
  const { engine, document } = RENDER_VERSIONS;
  const versions = { engineVersion: engine, documentVersion: document };
  await db
    .insert(workers)
    .values({ id, machine, jobs, ...versions })
    .onConflictDoUpdate({ target: workers.id, set: { beatAt: sql`now()` } });
}

/** A worker ends in order: what it runs goes back at once. */
export async function leave(db: Database, { id }: WorkerIdentity): Promise<void> {
  await db.transaction(async (work) => {
    await work.delete(workers).where(eq(workers.id, id));
    await giveBack(db, work, id);
  });
}

/** Gives back renders that were running when the folder's process ended; called before any render is taken. */
export async function giveBackAll(db: Database): Promise<void> {
  await db.transaction(async (work) => {
    const left = await work
      .selectDistinct({ workerId: renders.workerId })
      .from(renders)
      .where(and(eq(renders.state, 'running'), isNotNull(renders.workerId)));
    for (const { workerId } of left) await giveBack(db, work, workerId!);
  });
}

/** Gives back what workers ran whose heartbeat has stopped. @returns their number */
export async function buryWorkers(db: Database): Promise<number> {
  return db.transaction(async (work) => {
    const dead = await work.delete(workers).where(not(isAlive)).returning({ id: workers.id });
    for (const { id } of dead) await giveBack(db, work, id);
    return dead.length;
  });
}
