import { BLOCK_BYTES } from '@/core/formats/inBlocks';

/** Folder of the browser's private files in which sounds are kept. */
const FOLDER = 'sounds';
/** Bytes that are kept there. */
const MOST_BYTES = 2 * 1024 ** 3;
/** Bytes of a piece; the last of a file may be shorter. */
export const PIECE_BYTES = BLOCK_BYTES;

/** Beside the files of a sound an empty one, written anew whenever the sound is opened. */
const USED = 'used';

/** Held by all who read the unrolled file of a sound. */
export const readingLock = (id: string) => `kinetikon.unrolled.${id}`;
/** Held by the one who makes it. */
export const makingLock = (id: string) => `kinetikon.unrolling.${id}`;

export const pieceName = (id: string, n: number) => `${id}.${n}`;

/**
 * Where sounds are kept: `ID` is one that was unrolled, `ID.0`, `ID.1` and so on are pieces of one as it is on the server,
 * `ID.used` tells when it was opened last.
 * @returns null where the browser keeps no private files, or has no locks, as on an address without HTTPS
 */
export async function privateFiles(): Promise<FileSystemDirectoryHandle | null> {
  if (!navigator.locks) return null;
  try {
    return await (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true });
  } catch {
    return null;
  }
}

/** A file that was written to its end; what was begun and not ended is empty. */
export async function endedFile(within: FileSystemDirectoryHandle, name: string): Promise<File | null> {
  try {
    const file = await (await within.getFileHandle(name)).getFile();
    return file.size > 0 ? file : null;
  } catch {
    return null;
  }
}

/** Keeps that a sound has been opened. @throws where the browser has no room */
export async function markUsed(within: FileSystemDirectoryHandle, id: string): Promise<void> {
  await (await (await within.getFileHandle(`${id}.${USED}`, { create: true })).createWritable()).close();
}

/** What is kept of a sound. */
interface Kept {
  usedAt: number;
  /** Bytes of its unrolled file. */
  unrolled: number;
  readonly pieces: string[];
}

async function everythingIn(within: FileSystemDirectoryHandle): Promise<Map<string, Kept>> {
  const sounds = new Map<string, Kept>();
  for await (const [name, handle] of within.entries()) {
    if (handle.kind !== 'file') continue;
    const [id, part] = name.split('.') as [string, string | undefined];
    const kept = sounds.get(id) ?? { usedAt: 0, unrolled: 0, pieces: [] };
    sounds.set(id, kept);
    if (part !== undefined && part !== USED) {
      kept.pieces.push(name);
      continue;
    }
    const file = await (handle as FileSystemFileHandle).getFile().catch(() => null);
    if (part === USED) kept.usedAt = file?.lastModified ?? 0;
    else kept.unrolled = file?.size ?? 0;
  }
  return sounds;
}

/** Removes sounds that were not opened for longest, down to the bytes that are kept; unrolled ones in use stay. */
export async function makeRoom(within: FileSystemDirectoryHandle): Promise<void> {
  const sounds = [...(await everythingIn(within))].sort(([, a], [, b]) => a.usedAt - b.usedAt);
  let bytes = sounds.reduce((sum, [, { unrolled, pieces }]) => sum + unrolled + PIECE_BYTES * pieces.length, 0);
  // Another page may remove the same.
  const remove = (name: string) => within.removeEntry(name).catch(() => undefined);
  for (const [id, { unrolled, pieces }] of sounds) {
    // Whoever reads a piece that goes asks the server for it.
    while (bytes > MOST_BYTES && pieces.length > 0) {
      await remove(pieces.pop()!);
      bytes -= PIECE_BYTES;
    }
    if (bytes <= MOST_BYTES) return;
    await navigator.locks.request(readingLock(id), { ifAvailable: true }, async (lock) => {
      if (!lock) return;
      await remove(id);
      await remove(`${id}.${USED}`);
      bytes -= unrolled;
    });
  }
}
