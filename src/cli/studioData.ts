import { resolve } from 'node:path';
import { KinetikonError } from '@/core/errors';
import { rangedBytes, type FileBytes } from '@/core/formats/fileBytes';
import { OWNER_HEADER, type StoredSession } from '@/core/protocol/http';
import { configuredHome, openDatabase, type DatabaseHome } from '@/server/db/client';
import { serverOf } from '@/server/db/lock';
import { assetFile, findAsset } from '@/server/repositories/assets';
import { loadSession } from '@/server/repositories/sessions';
import { one, usage, type Options } from './arguments';

/** Options that say where sessions and sounds are. */
export const DATA = { '--data': true, '--database': true } as const;

/** Sessions and sounds, from a database or from the server that has it. */
export interface StudioData {
  /** @throws KinetikonError session.missing */
  session(id: string): Promise<Pick<StoredSession, 'document'>>;
  /** @throws KinetikonError asset.missing, asset.damaged */
  sound(id: string): Promise<FileBytes>;
  close(): Promise<void>;
}

/** The database that --data or --database names, else that of the environment. @throws KinetikonError usage */
export function homeOf(options: Options): DatabaseHome {
  const folder = one(options, '--data');
  const url = one(options, '--database');
  if (folder !== undefined && url !== undefined) throw usage('--data and --database name two places; one is enough.');
  if (url !== undefined) return { url };
  if (folder !== undefined) return { folder: resolve(folder) };
  return configuredHome();
}

/** Asks the server that has a data folder. */
function fromServer({ url, token }: NonNullable<ReturnType<typeof serverOf>>): StudioData {
  const ask = async (path: string, range?: string): Promise<Response> => {
    const headers = { [OWNER_HEADER]: token, ...(range ? { Range: range } : {}) };
    const response = await fetch(url + path, { headers });
    if (response.ok) return response;
    const { error } = (await response.json()) as { error: { message: string; next?: string } };
    throw new KinetikonError(path.startsWith('/api/assets') ? 'asset.missing' : 'session.missing', error.message, {
      next: error.next,
    });
  };
  return {
    session: async (id) => (await ask(`/api/sessions/${encodeURIComponent(id)}`)).json() as Promise<StoredSession>,
    sound: (id) => rangedBytes((range) => ask(`/api/assets/${id}`, range), `the sound ${id.slice(0, 12)}`),
    close: async () => {},
  };
}

/**
 * Opens the data that the options name: a folder through its server while that runs.
 * @throws KinetikonError database.locked when another process has the folder, database.failed
 */
export async function openData(options: Options): Promise<StudioData> {
  const home = homeOf(options);
  const server = 'folder' in home ? serverOf(home.folder) : null;
  if (server) return fromServer(server);
  const { db, close } = await openDatabase(home);
  return {
    session: (id) => loadSession(db, id),
    sound: async (id) => assetFile(db, await findAsset(db, id)),
    close,
  };
}
