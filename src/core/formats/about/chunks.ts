import type { FileBytes } from '../fileBytes';
import { OPEN } from '../wav';

/** A part of a file that names itself and its length. */
export interface Chunk {
  readonly id: string;
  /** Offset of its content, and the bytes of that. */
  readonly at: number;
  readonly size: number;
}

/** No file needs more chunks than this. */
const MOST_CHUNKS = 1000;

/**
 * The chunks of a RIFF, RF64, BW64 or IFF file, without reading what is in them. Damage ends the list.
 * @param littleEndian false for IFF
 */
export async function chunksOf(file: FileBytes, littleEndian: boolean): Promise<Chunk[]> {
  const chunks: Chunk[] = [];
  let dataSize: number | null = null;
  for (let at = 12; at + 8 <= file.size && chunks.length < MOST_CHUNKS;) {
    const head = await file.read(at, at + 24);
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
    const id = String.fromCharCode(...head.subarray(0, 4));
    let size = view.getUint32(4, littleEndian);
    if (id === 'ds64' && head.length === 24) dataSize = view.getUint32(16, true) + view.getUint32(20, true) * 2 ** 32;
    if (id === 'data' && size === OPEN && dataSize !== null) size = dataSize;
    chunks.push({ id, at: at + 8, size });
    at += 8 + size + (size & 1);
  }
  return chunks;
}

/** The chunks within the content of another. */
export function chunksIn(bytes: Uint8Array, from: number): Chunk[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks: Chunk[] = [];
  for (let at = from; at + 8 <= bytes.length && chunks.length < MOST_CHUNKS;) {
    const size = view.getUint32(at + 4, true);
    chunks.push({ id: String.fromCharCode(...bytes.subarray(at, at + 4)), at: at + 8, size });
    at += 8 + size + (size & 1);
  }
  return chunks;
}

/** Content of a chunk, cut at a length that is enough for what is read of it. */
export const contentOf = (file: FileBytes, { at, size }: Chunk, most = 65536): Promise<Uint8Array> =>
  file.read(at, Math.min(file.size, at + Math.min(size, most)));
