import type { PgDatabase, PgQueryResultHKT } from 'drizzle-orm/pg-core';
import type * as schema from './schema';

/** The database of a studio: PGlite in a folder, or a PostgreSQL server. */
export type Database = PgDatabase<PgQueryResultHKT, typeof schema>;

/** A database, or a transaction of one. */
export type Work = Pick<Database, 'select' | 'selectDistinct' | 'insert' | 'update' | 'delete' | 'execute' | '$count'>;

export interface OpenDatabase {
  readonly db: Database;
  close(): Promise<void>;
}
