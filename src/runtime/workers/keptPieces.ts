import type { FileBytes } from '@/core/formats/fileBytes';
import { endedFile, makeRoom, markUsed, PIECE_BYTES, pieceName, privateFiles } from './privateFiles';

/** Pieces that are written between two looks whether too many are kept. */
const LOOK_PIECES = 256;

/** Pieces of any sound that were written here. */
let written = 0;

/** A part of a file that may have been removed meanwhile. */
async function partOf(piece: Blob, from: number, to: number): Promise<Uint8Array | null> {
  try {
    return new Uint8Array(await piece.slice(from, to).arrayBuffer());
  } catch {
    return null;
  }
}

/**
 * A file of the server's, of which what was read once is kept by pieces in the browser's private files.
 * @param id of the asset
 * @param onRefused told once if the browser does not keep them, or no more of them
 */
export async function keptPieces(id: string, file: FileBytes, onRefused: () => void): Promise<FileBytes> {
  const within = await privateFiles();
  const isMarked =
    within &&
    (await markUsed(within, id).then(
      () => true,
      () => false,
    ));
  if (!isMarked) {
    onRefused();
    return file;
  }
  let isRefused = false;
  const keep = async (n: number, bytes: Uint8Array<ArrayBuffer>): Promise<void> => {
    try {
      const writable = await (await within.getFileHandle(pieceName(id, n), { create: true })).createWritable();
      await writable.write(bytes);
      await writable.close();
      if (written++ % LOOK_PIECES === 0) await makeRoom(within);
    } catch {
      await within.removeEntry(pieceName(id, n)).catch(() => undefined);
      if (!isRefused) onRefused();
      isRefused = true;
    }
  };
  const lengthOf = (n: number) => Math.min(PIECE_BYTES, file.size - n * PIECE_BYTES);
  /** Pieces on their way. */
  const coming = new Map<number, Promise<Uint8Array>>();
  const fetched = (n: number): Promise<Uint8Array> => {
    const known = coming.get(n);
    if (known) return known;
    const bytes = file.read(n * PIECE_BYTES, n * PIECE_BYTES + lengthOf(n));
    coming.set(n, bytes);
    const done = () => coming.delete(n);
    bytes.then((all) => keep(n, all as Uint8Array<ArrayBuffer>)).then(done, done);
    return bytes;
  };
  const part = async (n: number, from: number, to: number): Promise<Uint8Array> => {
    const piece = await endedFile(within, pieceName(id, n));
    const kept = piece?.size === lengthOf(n) ? await partOf(piece, from, to) : null;
    if (kept) return kept;
    const begin = n * PIECE_BYTES;
    return isRefused ? file.read(begin + from, begin + to) : (await fetched(n)).subarray(from, to);
  };
  return {
    size: file.size,
    read: async (from, to) => {
      const end = Math.min(to, file.size);
      const whole = new Uint8Array(Math.max(0, end - from));
      for (let at = from; at < end;) {
        const n = Math.floor(at / PIECE_BYTES);
        const begin = n * PIECE_BYTES;
        const bytes = await part(n, at - begin, Math.min(end, begin + PIECE_BYTES) - begin);
        whole.set(bytes, at - from);
        at += bytes.length;
      }
      return whole;
    },
  };
}
