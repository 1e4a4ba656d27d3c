import { containerOf, HEAD_BYTES } from '../soundFormats';
import type { FileBytes } from '../fileBytes';
import { aiffLayout } from '../aiff';
import { wavLayout } from '../wav';
import { SeekableFlac } from './seekableFlac';
import { SeekablePcm } from './seekablePcm';
import type { SeekableSound } from './seekableSound';

/**
 * Opens a sound for reading in any place.
 * @returns null for formats in which a place is only known by decoding all before it (MP3, Vorbis, Opus), and for files
 * that do not tell how long they are
 * @throws KinetikonError file.broken, file.unsupported
 */
export async function openSeekable(file: FileBytes, name: string): Promise<SeekableSound | null> {
  switch (containerOf(await file.read(0, HEAD_BYTES))) {
    case 'wav':
      return SeekablePcm.open(file, name, wavLayout);
    case 'aiff':
      return SeekablePcm.open(file, name, aiffLayout);
    case 'flac':
      return SeekableFlac.open(file, name);
    default:
      return null;
  }
}
