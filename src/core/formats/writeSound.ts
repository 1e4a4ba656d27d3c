import { writeFlac } from './flac';
import type { Sound } from './sound';
import type { OutputFormatId } from './soundFormats';
import { writeWav } from './wav';

/** The bytes of a sound file. */
export async function writeSound(sound: Sound, format: OutputFormatId): Promise<Uint8Array> {
  return format === 'flac' ? writeFlac(sound, 24) : writeWav(sound, format);
}
