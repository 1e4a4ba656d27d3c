import { createHash } from 'node:crypto';

/** Size of the pieces by which blobs are written, checked and read. */
export const PIECE_BYTES = 1024 * 1024;

/** The parts of a file, in order. */
export type Parts = AsyncIterable<Uint8Array> | Iterable<Uint8Array>;

/** Parts of any size put together to pieces of `size` bytes, the last one shorter. */
export async function* inPieces(body: Parts, size = PIECE_BYTES): AsyncGenerator<Buffer> {
  let parts: Uint8Array[] = [];
  let held = 0;
  for await (const part of body) {
    parts.push(part);
    held += part.length;
    if (held < size) continue;
    let all = Buffer.concat(parts);
    for (; all.length >= size; all = all.subarray(size)) yield all.subarray(0, size);
    parts = [all];
    held = all.length;
  }
  if (held > 0) yield Buffer.concat(parts);
}

/** All parts put together. */
export async function gathered(parts: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const all: Uint8Array[] = [];
  for await (const part of parts) all.push(part);
  return Buffer.concat(all);
}

/** Checksum of a piece: SHA-256 in hexadecimal. */
export const sumOf = (piece: Uint8Array): string => createHash('sha256').update(piece).digest('hex');
