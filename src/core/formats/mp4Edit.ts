import type { FileBytes } from './fileBytes';

/** Boxes that hold others on the way to an edit list. */
const HOLDERS = new Set(['moov', 'trak', 'edts', 'mdia']);
const MOST_BOXES = 2000;

interface Found {
  movieTimescale: number;
  /** Of the first sound track: its edits, each with its length in the movie's own time and where it begins in the track's. */
  edits: { duration: number; mediaTime: number }[] | null;
}

/**
 * Length of what an MP4 plays of its sound, by the edit list of its first sound track: what an encoder put behind the sound
 * is left out. Source: ISO/IEC 14496-12, sections 8.2.2 and 8.6.6.
 * @returns in seconds, with the step in which it is told; null where the file has none
 */
export async function mp4EditLength(file: FileBytes): Promise<{ seconds: number; step: number } | null> {
  const found: Found = { movieTimescale: 0, edits: null };
  await walk(file, 0, file.size, found, { count: 0 });
  const played = found.edits?.filter(({ mediaTime }) => mediaTime >= 0) ?? [];
  const duration = played.reduce((sum, edit) => sum + edit.duration, 0);
  if (found.movieTimescale === 0 || duration === 0) return null;
  return { seconds: duration / found.movieTimescale, step: 1 / found.movieTimescale };
}

/** @returns true if what was walked is a sound track */
async function walk(
  file: FileBytes,
  from: number,
  to: number,
  found: Found,
  walked: { count: number },
): Promise<boolean> {
  let isSound = false;
  for (let at = from; at + 8 <= to && walked.count++ < MOST_BOXES;) {
    const head = await file.read(at, Math.min(to, at + 48));
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
    const kind = String.fromCharCode(...head.subarray(4, 8));
    const short = view.getUint32(0);
    const isLong = short === 1 && head.length >= 16;
    const size = short === 0 ? to - at : isLong ? view.getUint32(8) * 2 ** 32 + view.getUint32(12) : short;
    const begin = at + (isLong ? 16 : 8);
    if (size < begin - at) return isSound;
    const end = Math.min(to, at + size);
    if (kind === 'mvhd' && head.length >= 32) found.movieTimescale = view.getUint32(head[8] === 1 ? 28 : 20);
    if (kind === 'hdlr' && String.fromCharCode(...head.subarray(16, 20)) === 'soun') isSound = true;
    if (kind === 'elst' && found.edits === null)
      found.edits = editsIn(await file.read(begin, Math.min(end, begin + 4096)));
    if (HOLDERS.has(kind)) {
      const before = found.edits;
      const isSoundInside = await walk(file, begin, end, found, walked);
      if (kind === 'mdia') isSound ||= isSoundInside;
      // Edits of pictures and texts are none of ours.
      if (kind === 'trak' && !isSoundInside) found.edits = before;
    }
    at = end;
  }
  return isSound;
}

function editsIn(bytes: Uint8Array): { duration: number; mediaTime: number }[] {
  if (bytes.length < 8) return [];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const isLong = bytes[0] === 1;
  const size = isLong ? 20 : 12;
  const count = Math.min(view.getUint32(4), Math.floor((bytes.length - 8) / size));
  return Array.from({ length: count }, (_, n) => {
    const at = 8 + n * size;
    return isLong
      ? {
          duration: view.getUint32(at) * 2 ** 32 + view.getUint32(at + 4),
          mediaTime: view.getInt32(at + 8) * 2 ** 32 + view.getUint32(at + 12),
        }
      : { duration: view.getUint32(at), mediaTime: view.getInt32(at + 4) };
  });
}
