import { containerOf, HEAD_BYTES, type ContainerId } from '../soundFormats';
import type { FileBytes } from '../fileBytes';
import type { FileAbout } from './about';
import { aiffAbout } from './aiffAbout';
import { flacAbout, oggAbout } from './comments';
import { mp3About } from './id3';
import { wavAbout } from './wavAbout';

const ABOUT: Readonly<Record<ContainerId, (file: FileBytes) => Promise<FileAbout | null>>> = {
  wav: wavAbout,
  aiff: aiffAbout,
  flac: flacAbout,
  mp3: mp3About,
  vorbis: oggAbout,
  opus: oggAbout,
};

/**
 * Metadata of a sound file. Only the parts of the file that hold it are read, not the samples.
 * @returns null for a file that is not read, or so damaged that nothing can be told; what is doubtful is left out
 */
export async function aboutSound(file: FileBytes): Promise<FileAbout | null> {
  const container = containerOf(await file.read(0, HEAD_BYTES));
  if (!container) return null;
  try {
    return await ABOUT[container](file);
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}
