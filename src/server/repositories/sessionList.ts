import { and, asc, count, desc, inArray, isNotNull, isNull, sql, type SQL } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { SessionOrder, SessionListPage, SessionQuery, SessionSummary } from '@/core/protocol/http';
import type { Database } from '../db/database';
import { sessionChanges, sessions } from '../db/schema';
import { foldSome } from './sessionDocuments';

interface Order {
  readonly key: SQL;
  /** The key as text from which `typed` makes it again. */
  readonly text: SQL<string>;
  readonly typed: (text: string) => SQL;
  readonly isKey: RegExp;
  readonly isDown: boolean;
}

const { updatedAt, name, summary } = sessions;
const seconds = sql`coalesce((${summary} ->> 'seconds')::double precision, 0)`;

const ORDERS: Readonly<Record<SessionOrder, Order>> = {
  changed: {
    key: sql`${updatedAt}`,
    text: sql<string>`to_char(${updatedAt} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')`,
    typed: (text) => sql`${text}::timestamptz`,
    isKey: /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{6}Z$/,
    isDown: true,
  },
  name: {
    key: sql`lower(${name})`,
    text: sql<string>`lower(${name})`,
    typed: (text) => sql`${text}::text`,
    isKey: /^[^\0]*$/,
    isDown: false,
  },
  length: {
    key: seconds,
    text: sql<string>`(${seconds})::text`,
    typed: (text) => sql`${text}::double precision`,
    isKey: /^\d+(\.\d+)?(e[+-]?\d+)?$/,
    isDown: true,
  },
};

/** A cursor: the key and the id of the last session of a page. */
const writeCursor = (key: string, id: string) => Buffer.from(JSON.stringify([key, id])).toString('base64url');

/** @throws KinetikonError request.invalid */
function readCursor(cursor: string, { isKey }: Order): readonly [key: string, id: string] {
  try {
    const parts: unknown = JSON.parse(Buffer.from(cursor, 'base64url').toString());
    if (Array.isArray(parts) && parts.length === 2 && parts.every((one) => typeof one === 'string')) {
      const [key, id] = parts as [string, string];
      if (isKey.test(key) && !id.includes('\0')) return [key, id];
    }
  } catch {
    // Not even JSON.
  }
  throw new KinetikonError('request.invalid', 'The list of sessions cannot go on from there.', {
    next: 'Ask for its beginning again.',
  });
}

/**
 * A page of the list of sessions.
 * @throws KinetikonError request.invalid for a cursor that no page gave
 */
export async function listSessions(
  db: Database,
  { search = '', order: orderId = 'changed', binned = false, after = null, limit = 50 }: SessionQuery = {},
): Promise<SessionListPage> {
  const order = ORDERS[orderId];
  const inBin = binned ? isNotNull(sessions.binnedAt) : isNull(sessions.binnedAt);
  const conditions = [inBin];
  if (search.trim() !== '') conditions.push(sql`position(lower(${search.trim()}) in lower(${name})) > 0`);
  if (after !== null) {
    const [key, id] = readCursor(after, order);
    const than = order.isDown ? sql`<` : sql`>`;
    conditions.push(sql`(${order.key}, ${sessions.id}) ${than} (${order.typed(key)}, ${id})`);
  }
  const direction = order.isDown ? desc : asc;
  const page = () =>
    db
      .select({
        id: sessions.id,
        name,
        revision: sessions.revision,
        summary,
        fromDemo: sessions.fromDemo,
        updatedAt,
        binnedAt: sessions.binnedAt,
        key: order.text,
      })
      .from(sessions)
      .where(and(...conditions))
      .orderBy(direction(order.key), direction(sessions.id))
      .limit(limit + 1);
  let rows = await page();
  if (
    await bringUpToDate(
      db,
      rows.map(({ id }) => id),
    )
  )
    rows = await page();
  const [counts] = await db
    .select({ kept: count(sql`case when ${isNull(sessions.binnedAt)} then 1 end`), all: count() })
    .from(sessions);
  const shown = rows.slice(0, limit);
  const last = shown.at(-1);
  return {
    sessions: shown.map(toSummary),
    next: last && rows.length > limit ? writeCursor(last.key, last.id) : null,
    kept: counts!.kept,
    binned: counts!.all - counts!.kept,
  };
}

/** Brings those of some sessions up to date that have changes their pictures do not show; true if there were any. */
async function bringUpToDate(db: Database, ids: readonly string[]): Promise<boolean> {
  if (ids.length === 0) return false;
  const changed = await db
    .selectDistinct({ id: sessionChanges.sessionId })
    .from(sessionChanges)
    .where(inArray(sessionChanges.sessionId, [...ids]));
  await foldSome(
    db,
    changed.map(({ id }) => id),
  );
  return changed.length > 0;
}

type Row = Pick<
  typeof sessions.$inferSelect,
  'id' | 'name' | 'revision' | 'summary' | 'fromDemo' | 'updatedAt' | 'binnedAt'
>;

const toSummary = (row: Row): SessionSummary => ({
  id: row.id,
  name: row.name,
  revision: row.revision,
  ...(row.summary ?? { tracks: 0, seconds: 0, picture: [] }),
  fromDemo: row.fromDemo,
  updatedAt: row.updatedAt.toISOString(),
  binnedAt: row.binnedAt?.toISOString() ?? null,
});
