import { resolve } from 'node:path';
import { log } from '../log';
import type { Database, OpenDatabase } from './database';
import { openFolder } from './folderDatabase';
import { openServer } from './serverDatabase';

/** Home of the database: a folder, or a server by its URL. */
export type DatabaseHome = { readonly folder: string } | { readonly url: string };

/** The data folder: KINETIKON_DATA, or `data` in the working folder. */
export function dataFolder(): string {
  return resolve(process.env.KINETIKON_DATA ?? 'data');
}

/** The home that the environment names: DATABASE_URL, else the data folder. */
export function configuredHome(): DatabaseHome {
  const url = process.env.DATABASE_URL;
  return url ? { url } : { folder: dataFolder() };
}

/**
 * Opens a database and brings its tables up to date.
 * @throws KinetikonError database.locked when another process has the folder, database.failed when the server does not
 * answer or is too old
 */
export function openDatabase(home: DatabaseHome = configuredHome()): Promise<OpenDatabase> {
  return 'url' in home ? openServer(home.url) : openFolder(home.folder);
}

const shared = globalThis as typeof globalThis & { kinetikonDatabase?: Promise<OpenDatabase> };

/** The one database of this process, opened on first use. */
export async function database(): Promise<Database> {
  if (!shared.kinetikonDatabase) {
    const home = configuredHome();
    shared.kinetikonDatabase = openDatabase(home);
    shared.kinetikonDatabase.then(
      () => log('database.open', 'url' in home ? { server: new URL(home.url).host } : home),
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
