import { KinetikonError } from '../errors';
import { readFlac } from './flac';
import type { Sound } from './sound';
import { readWav } from './wav';

/**
 * Reads a sound file by its content, whatever its name says.
 * @throws KinetikonError file.unsupported and those of the readers
 */
export async function readSound(bytes: Uint8Array, name: string): Promise<Sound> {
  const head = String.fromCharCode(...bytes.subarray(0, 4));
  if (head === 'RIFF') return readWav(bytes, name);
  if (head === 'fLaC') return readFlac(bytes, name);
  throw notSound(bytes.length, name);
}

/** Why a file that begins as neither format does is refused. */
export function notSound(bytes: number, name: string): KinetikonError {
  if (bytes === 0) return new KinetikonError('file.empty', `${name} is empty.`, { kept: 'Nothing was brought in.' });
  return new KinetikonError('file.unsupported', `${name} is neither WAV nor FLAC.`, {
    kept: 'Nothing was brought in.',
    next: 'Save it as WAV or FLAC and bring it in again.',
  });
}
