import { blobBytes, type FileBytes } from '@/core/formats/fileBytes';
import type { FileSink } from '@/core/formats/fileSink';
import { openSeekable } from '@/core/formats/seekable/seekable';
import type { SeekableSound } from '@/core/formats/seekable/seekableSound';
import { unroll } from '@/core/formats/seekable/unroll';
import { KinetikonError } from '@/core/errors';
import { endedFile, makeRoom, makingLock, markUsed, privateFiles, readingLock } from './privateFiles';

/** Holds a file, so that no other page removes it; null if it is not there. */
async function held(within: FileSystemDirectoryHandle, id: string): Promise<{ file: File; letGo(): void } | null> {
  return new Promise((resolve, reject) => {
    navigator.locks
      .request(readingLock(id), { mode: 'shared' }, async () => {
        const file = await endedFile(within, id);
        if (!file) return resolve(null);
        await markUsed(within, id);
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
  if (await endedFile(within, id)) return true;
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
  const within = await privateFiles();
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
