import { keepNewest } from '../math/keepNewest';
import type { FileBytes } from './fileBytes';

/** Bytes that are read at a time. */
export const BLOCK_BYTES = 262144;

/** Blocks of a file that are kept. */
const KEPT = 12;

/** Reads a file by blocks and keeps the last of them: what is read next mostly lies beside what was read before. */
export function inBlocks(file: FileBytes): FileBytes {
  /** The one used last at the end. */
  const kept = new Map<number, Promise<Uint8Array>>();
  const fetched = (n: number): Promise<Uint8Array> => {
    const bytes = file.read(n * BLOCK_BYTES, (n + 1) * BLOCK_BYTES);
    // A block that could not be read is asked for again.
    bytes.catch(() => kept.delete(n));
    return bytes;
  };
  const block = (n: number): Promise<Uint8Array> => {
    const bytes = kept.get(n) ?? fetched(n);
    kept.delete(n);
    kept.set(n, bytes);
    keepNewest(kept, KEPT);
    return bytes;
  };
  return {
    size: file.size,
    read: async (from, to) => {
      const end = Math.min(to, file.size);
      if (end <= from) return new Uint8Array();
      const first = Math.floor(from / BLOCK_BYTES);
      const blocks = await Promise.all(
        Array.from({ length: Math.ceil(end / BLOCK_BYTES) - first }, (_, n) => block(first + n)),
      );
      if (blocks.length === 1) return blocks[0]!.subarray(from - first * BLOCK_BYTES, end - first * BLOCK_BYTES);
      const whole = new Uint8Array(end - from);
      blocks.forEach((bytes, n) => {
        const at = (first + n) * BLOCK_BYTES - from;
        whole.set(bytes.subarray(Math.max(0, -at), Math.min(bytes.length, end - from - at)), Math.max(0, at));
      });
      return whole;
    },
  };
}
