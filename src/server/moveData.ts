import { getTableColumns, sql, type SQL } from 'drizzle-orm';
import { getTableConfig, type PgTable } from 'drizzle-orm/pg-core';
import { KinetikonError } from '@/core/errors';
import type { BlobHome } from './blobs/blobHome';
import type { Database } from './db/database';
import * as schema from './db/schema';
import { readBlob } from './repositories/blobs';

const { assets, blobPieces, favourites, presets, sessionChanges, sessions, sessionSteps, settings, soundUses } = schema;

/** Tables of what people have made, each after those that it refers to. Renders and uploads under way stay behind. */
const TABLES: readonly PgTable[] = [
  sessions,
  sessionChanges,
  sessionSteps,
  assets,
  blobPieces,
  soundUses,
  presets,
  favourites,
  settings,
];
const ROWS_AT_ONCE = 200;

interface Place {
  readonly db: Database;
  readonly blobs: BlobHome;
}

const listed = (parts: readonly SQL[]) => sql.join([...parts], sql`, `);

/** Columns by which the rows of a table are told apart. */
function keyOf(table: PgTable): string[] {
  const { columns, primaryKeys } = getTableConfig(table);
  const single = columns.filter(({ primary }) => primary).map(({ name }) => name);
  return single.length > 0 ? single : primaryKeys[0]!.columns.map(({ name }) => name);
}

/** Number of the rows of a table, and a sum of all they hold. */
async function sumOfTable(db: Database, table: PgTable): Promise<{ count: number; sum: string }> {
  const { name, columns } = getTableConfig(table);
  const texts = columns.map((column) => {
    const own = sql.identifier(column.name);
    switch (column.columnType) {
      case 'PgTimestamp':
        return sql`to_char(${own} at time zone 'UTC', 'YYYYMMDDHH24MISSUS')`;
      case 'PgCustomColumn':
        return sql`encode(${own}, 'hex')`;
      default:
        return sql`${own}::text`;
    }
  });
  const row = sql`md5(concat_ws('|', ${listed(texts)}))`;
  const sum = sql`md5(coalesce(string_agg(${row}, '' order by ${row} collate "C"), ''))`;
  const { rows } = (await db.execute(
    sql`select count(*)::integer as count, ${sum} as sum from ${sql.identifier(name)}`,
  )) as unknown as { rows: { count: number; sum: string }[] };
  return rows[0]!;
}

/** Copies the rows of a table, some at a time in the order of their keys; those that are there are left. */
async function copyTable(from: Database, to: Database, table: PgTable): Promise<void> {
  const key = keyOf(table);
  const columns = getTableColumns(table);
  const isTime = (field: string) => columns[field]!.columnType === 'PgTimestamp';
  // Times travel as text: read as dates they would lose their microseconds.
  const read = Object.fromEntries(
    Object.entries(columns).map(([field, column]) => [field, isTime(field) ? sql`${column}::text` : column]),
  );
  const fields = key.map((name) => Object.keys(columns).find((field) => columns[field]!.name === name)!);
  const keyColumns = listed(key.map((name) => sql`${sql.identifier(name)}`));
  let after: SQL | undefined;
  for (;;) {
    const found = await from.select(read).from(table).where(after).orderBy(keyColumns).limit(ROWS_AT_ONCE);
    if (found.length === 0) return;
    const rows = found.map((row) =>
      Object.fromEntries(
        Object.entries(row).map(([field, value]) => [field, isTime(field) ? sql`${value}::timestamptz` : value]),
      ),
    );
    await to.insert(table).values(rows).onConflictDoNothing();
    after = sql`(${keyColumns}) > (${listed(fields.map((field) => sql`${found.at(-1)![field]}`))})`;
  }
}

/** Copies a blob piece by piece, each compared with its checksum; one that is whole there is left. */
async function copyBlob(from: Place, to: Place, id: string, name: string): Promise<void> {
  const size = await from.blobs.size(id);
  if (size === null) throw new KinetikonError('asset.damaged', `The bytes of ${name} are not there.`);
  if ((await to.blobs.size(id)) === size) return;
  await to.blobs.remove([id]);
  const damaged = (why: string) => new KinetikonError('asset.damaged', `The sound ${name} is damaged: ${why}.`);
  const writer = await to.blobs.write(id);
  try {
    for await (const piece of readBlob(from.db, id, size, 0, size, damaged, from.blobs)) await writer.append(piece);
    await writer.finish();
  } finally {
    await writer.abandon();
  }
}

/**
 * Copies everything that people have made into another database and home of blobs. The source is not changed; a move
 * that broke off goes on where it was.
 * @param onProgress from 0 to 1
 * @throws KinetikonError data.differs when what has arrived is not what left, asset.damaged
 */
export async function moveData(
  from: Place,
  to: Place,
  onProgress: (done: number) => void,
): Promise<{ rows: number; blobs: number }> {
  const sounds = await from.db.select({ id: assets.uploadId, name: assets.name }).from(assets);
  const steps = TABLES.length + sounds.length;
  for (const [n, { id, name }] of sounds.entries()) {
    await copyBlob(from, to, id, name);
    onProgress((n + 1) / steps);
  }
  let rows = 0;
  for (const [n, table] of TABLES.entries()) {
    await copyTable(from.db, to.db, table);
    const [there, here] = [await sumOfTable(to.db, table), await sumOfTable(from.db, table)];
    if (there.sum !== here.sum) {
      const { name } = getTableConfig(table);
      throw new KinetikonError(
        'data.differs',
        `The table ${name} differs there: ${there.count} rows, ${here.count} here.`,
        {
          kept: 'The source is unchanged.',
          next: 'Move into an empty place, while nobody works in either.',
        },
      );
    }
    rows += here.count;
    onProgress((sounds.length + n + 1) / steps);
  }
  return { rows, blobs: sounds.length };
}
