import type { FileBytes } from './fileBytes';

/** A block of metadata: where its content lies. */
export interface FlacBlock {
  readonly kind: number;
  readonly at: number;
  readonly size: number;
}

/**
 * Blocks of metadata of a FLAC file, without their content. Source: RFC 9639, section 8.
 * @returns also the offset of the first frame; null where the file ends before that
 */
export async function flacBlocks(file: FileBytes): Promise<{ blocks: FlacBlock[]; end: number | null }> {
  const blocks: FlacBlock[] = [];
  for (let at = 4; at + 4 <= file.size;) {
    const head = await file.read(at, at + 4);
    const size = (head[1]! << 16) | (head[2]! << 8) | head[3]!;
    blocks.push({ kind: head[0]! & 127, at: at + 4, size });
    at += 4 + size;
    if (head[0]! > 127) return { blocks, end: at };
  }
  return { blocks, end: null };
}
