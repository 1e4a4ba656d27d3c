import { join } from 'node:path';
import { PGlite, types } from '@electric-sql/pglite';
import { drizzle, type PgliteDatabase } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { log } from '../log';
import { lockFolder } from './lock';
import * as schema from './schema';

export type Database = PgliteDatabase<typeof schema>;

export interface OpenDatabase {
  readonly db: Database;
  close(): Promise<void>;
}

/** The data folder: KINETIKON_DATA, or `data` in the working folder. */
export function dataFolder(): string {
  return process.env.KINETIKON_DATA ?? join(process.cwd(), 'data');
}

/**
 * Opens the database of a folder behind our own lock and brings its tables up to date.
 * @throws KinetikonError database.locked
 */
export async function openDatabase(folder: string): Promise<OpenDatabase> {
  const unlock = lockFolder(folder);
  try {
    const pglite = await PGlite.create(join(folder, 'pg'), {
      // The built-in codec of binary columns takes seconds for megabytes; hexadecimal by Buffer does not.
      serializers: {
        [types.BYTEA]: (value: Uint8Array) =>
          '\\x' + Buffer.from(value.buffer, value.byteOffset, value.byteLength).toString('hex'),
      },
      parsers: { [types.BYTEA]: (text: string) => new Uint8Array(Buffer.from(text.slice(2), 'hex')) },
    });
    const db = drizzle(pglite, { schema });
    await migrate(db, { migrationsFolder: join(process.cwd(), 'src/server/db/migrations') });
    return {
      db,
      close: async () => {
        await pglite.close();
        unlock();
      },
    };
  } catch (error) {
    unlock();
    throw error;
  }
}

const shared = globalThis as typeof globalThis & { kinetikonDatabase?: Promise<OpenDatabase> };

/** The one database of this process, opened on first use. */
export async function database(): Promise<Database> {
  if (!shared.kinetikonDatabase) {
    shared.kinetikonDatabase = openDatabase(dataFolder());
    shared.kinetikonDatabase.then(
      () => log('database.open', { folder: dataFolder() }),
      () => delete shared.kinetikonDatabase,
    );
  }
  return (await shared.kinetikonDatabase).db;
}

/** Closes the database of this process, if it is open. */
export async function closeDatabase(): Promise<void> {
  const open = await shared.kinetikonDatabase?.catch(() => undefined);
  delete shared.kinetikonDatabase;
  await open?.close();
}
