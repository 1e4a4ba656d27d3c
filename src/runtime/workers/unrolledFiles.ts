import { blobBytes, type FileBytes } from '@/core/formats/fileBytes';
import type { FileSink } from '@/core/formats/fileSink';
import { openSeekable } from '@/core/formats/seekable/seekable';
import type { SeekableSound } from '@/core/formats/seekable/seekableSound';
import { unroll } from '@/core/formats/seekable/unroll';
import { KinetikonError } from '@/core/errors';

/** Folder of the browser's private files. */
const FOLDER = 'unrolled-sounds';
/** Bytes of files that are kept there; those used last stay. */
const MOST_BYTES = 2 * 1024 ** 3;

/** Beside each file an empty one, written anew whenever the file is used. */
const USED = '.used';

/** Held by all who read a file. */
const readingLock = (id: string) => `kinetikon.unrolled.${id}`;
/** Held by the one who makes it. */
const makingLock = (id: string) => `kinetikon.unrolling.${id}`;

/** Null where the browser keeps no private files, or no locks, as on an address without HTTPS. */
async function folder(): Promise<FileSystemDirectoryHandle | null> {
  if (!navigator.locks) return null;
  try {
    return await (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true });
  } catch {
    return null;
  }
}

/** A file that was written to its end; what was begun and not ended is empty. */
async function ended(within: FileSystemDirectoryHandle, id: string): Promise<File | null> {
  try {
    const file = await (await within.getFileHandle(id)).getFile();
    return file.size > 0 ? file : null;
  } catch {
    return null;
  }
}

/** Holds a file, so that no other page removes it; null if it is not there. */
async function held(within: FileSystemDirectoryHandle, id: string): Promise<{ file: File; letGo(): void } | null> {
  return new Promise((resolve, reject) => {
    navigator.locks
      .request(readingLock(id), { mode: 'shared' }, async () => {
        const file = await ended(within, id);
        if (!file) return resolve(null);
        await (await (await within.getFileHandle(id + USED, { create: true })).createWritable()).close();
        await new Promise<void>((letGo) => resolve({ file, letGo }));
      })
      .catch(reject);
  });
}

/** Writes a file that is there whole or not at all. False where the browser has no room for it. */
async function make(
  within: FileSystemDirectoryHandle,
  id: string,
  source: FileBytes,
  name: string,
  onProgress: (done: number) => void,
): Promise<boolean> {
  if (await ended(within, id)) return true;
  let writable: FileSystemWritableFileStream | null = null;
  try {
    const open = await (await within.getFileHandle(id, { create: true })).createWritable();
    writable = open;
    const sink: FileSink = {
      write: (bytes) => open.write(bytes as Uint8Array<ArrayBuffer>),
      end: async (head) => {
        await open.write({ type: 'write', position: 0, data: head as Uint8Array<ArrayBuffer> });
        await open.close();
      },
    };
    for await (const done of unroll(source, name, sink)) onProgress(done);
    return true;
  } catch (error) {
    await writable?.abort().catch(() => undefined);
    await within.removeEntry(id).catch(() => undefined);
    // What is wrong with the sound is told; a browser without room is not an error.
    if (error instanceof KinetikonError) throw error;
    return false;
  }
}

/** Removes the files that were not used for longest, down to the bytes that are kept; those in use stay. */
async function makeRoom(within: FileSystemDirectoryHandle): Promise<void> {
  const files: { id: string; size: number; usedAt: number }[] = [];
  for await (const [id, handle] of within.entries()) {
    if (id.includes('.') || handle.kind !== 'file') continue;
    const { size, lastModified } = await (handle as FileSystemFileHandle).getFile();
    const used = await within.getFileHandle(id + USED).then(
      async (mark) => (await mark.getFile()).lastModified,
      () => lastModified,
    );
    files.push({ id, size, usedAt: used });
  }
  let bytes = files.reduce((sum, { size }) => sum + size, 0);
  for (const { id, size } of files.sort((a, b) => a.usedAt - b.usedAt)) {
    if (bytes <= MOST_BYTES) return;
    await navigator.locks.request(readingLock(id), { ifAvailable: true }, async (lock) => {
      if (!lock) return;
      await within.removeEntry(id);
      await within.removeEntry(id + USED).catch(() => undefined);
      bytes -= size;
    });
  }
}

/**
 * A sound that can only be read from its beginning, as one in which any place can be read: unrolled once into a private file
 * of the browser's, which later pages find again.
 * @param id of the asset
 * @returns null where the browser keeps no such file
 * @throws KinetikonError as reading the sound does
 */
export async function openUnrolled(
  id: string,
  source: FileBytes,
  name: string,
  onProgress: (done: number) => void,
): Promise<SeekableSound | null> {
  const within = await folder();
  if (!within) return null;
  let kept = await held(within, id);
  if (!kept) {
    const isMade = await navigator.locks.request(makingLock(id), () => make(within, id, source, name, onProgress));
    kept = isMade ? await held(within, id) : null;
    await makeRoom(within);
  }
  if (!kept) return null;
  const { file, letGo } = kept;
  const sound = await openSeekable(blobBytes(file), name);
  if (!sound) {
    letGo();
    return null;
  }
  return {
    sampleRateHz: sound.sampleRateHz,
    channels: sound.channels,
    frames: sound.frames,
    read: (from, to) => sound.read(from, to),
    free: () => {
      sound.free();
      letGo();
    },
  };
}
