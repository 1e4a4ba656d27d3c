import { sql, type SQL } from 'drizzle-orm';

/** A moment before now, by the clock of the database. */
export const secondsAgo = (seconds: number): SQL => sql`now() - make_interval(secs => ${seconds})`;
export const daysAgo = (days: number): SQL => sql`now() - make_interval(days => ${days})`;
