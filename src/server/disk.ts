import { promises as files } from 'node:fs';
import { KinetikonError } from '@/core/errors';
import { isAbsolute } from 'node:path';
import { configuredHome } from './db/client';

const MEGABYTE = 1024 * 1024;
/**
 * Room that is left on the disk, in bytes, by what can wait (sounds) and by what cannot (sessions). The database does
 * not survive a disk that fills up while it writes: its log alone grows by 16 MB at a time.
 */
export const RESERVE = { sounds: 128 * MEGABYTE, sessions: 48 * MEGABYTE } as const;
/** PostgreSQL's code for it, and that of the file system. */
const FULL = ['53100', 'ENOSPC'];

/** The folder that fills up; null where the data are on a server and an object store. */
function storageFolder(): string | null {
  const blobs = process.env.KINETIKON_BLOBS ?? '';
  if (isAbsolute(blobs)) return blobs;
  const home = configuredHome();
  return 'folder' in home ? home.folder : null;
}

/** Bytes that can still be written where the data lie; null where that is not known. */
export async function freeBytes(): Promise<number | null> {
  const folder = storageFolder();
  if (folder === null) return null;
  try {
    const { bavail, bsize } = await files.statfs(folder);
    return bavail * bsize;
  } catch {
    return null;
  }
}

const diskOf = (folder: string | null) =>
  folder === null ? 'on the database server' : `on the disk that holds ${folder}`;

const full = (message: string, cause?: unknown) =>
  new KinetikonError('storage.full', message, {
    kept: 'What was saved before is untouched.',
    next: `Make room ${diskOf(storageFolder())}, or remove unused sounds on the start page.`,
    cause,
  });

/**
 * Checks that so many bytes can be written and the reserve stays.
 * @throws KinetikonError storage.full
 */
export async function needRoom(bytes: number, reserve: number = RESERVE.sessions): Promise<void> {
  const free = await freeBytes();
  if (free === null || free - bytes >= reserve) return;
  throw full(`The disk is nearly full: ${Math.floor(free / MEGABYTE)} MB are left.`);
}

/** The error of a full disk, if that is what an error comes from; else undefined. */
export function fullDisk(error: unknown): KinetikonError | undefined {
  for (let cause: unknown = error; cause instanceof Error; cause = cause.cause) {
    const { code } = cause as { code?: unknown };
    if (FULL.includes(String(code)) || /No space left on device/i.test(cause.message)) {
      return full('The disk is full.', error);
    }
  }
  return undefined;
}
