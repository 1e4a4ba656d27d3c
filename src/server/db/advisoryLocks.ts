import { sql } from 'drizzle-orm';
import type { Work } from './database';

/** Held by a sweep of sounds, and shared by all that begin to use sounds. */
export const SWEEP = 7401;
/** Held while a free name is looked for and taken. */
export const NAMES = 7402;
/** Held while tables are brought up to date. */
export const MIGRATIONS = 7403;

/** Takes a lock of the database until the transaction ends. */
export async function lockUntilEnd(work: Work, lock: number, mode: 'shared' | 'alone' = 'alone'): Promise<void> {
  await work.execute(
    mode === 'shared' ? sql`select pg_advisory_xact_lock_shared(${lock})` : sql`select pg_advisory_xact_lock(${lock})`,
  );
}
