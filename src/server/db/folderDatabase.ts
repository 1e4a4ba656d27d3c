import { join } from 'node:path';
import { PGlite, types } from '@electric-sql/pglite';
import { drizzle } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { setQueue } from '../renders/renderQueue';
import { TableQueue } from '../renders/tableQueue';
import { MIGRATIONS_FOLDER } from '../root';
import type { Database, OpenDatabase } from './database';
import { lockFolder } from './lock';
import * as schema from './schema';

/**
 * Opens the database of a folder behind our own lock.
 * @throws KinetikonError database.locked
 */
export async function openFolder(folder: string): Promise<OpenDatabase> {
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
    const pgliteDb = drizzle(pglite, { schema });
    await migrate(pgliteDb, { migrationsFolder: MIGRATIONS_FOLDER });
    const db = pgliteDb as unknown as Database;
    const queue = new TableQueue(db);
    setQueue(db, queue);
    return {
      db,
      close: async () => {
        await queue.close();
        await pglite.close();
        unlock();
      },
    };
  } catch (error) {
    unlock();
    throw error;
  }
}
