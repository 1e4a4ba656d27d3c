import { KinetikonError } from '../errors';
import { readFlac } from './flac';
import type { Sound } from './sound';
import { containerNames, containerOf, type ContainerId } from './soundFormats';
import { readWav } from './wav';

const READERS: Readonly<Record<ContainerId, (bytes: Uint8Array, name: string) => Sound | Promise<Sound>>> = {
  wav: readWav,
  flac: readFlac,
};

/**
 * Reads a sound file by its content, whatever its name says.
 * @throws KinetikonError file.unsupported and those of the readers
 */
export async function readSound(bytes: Uint8Array, name: string): Promise<Sound> {
  const container = containerOf(bytes);
  if (!container) throw notSound(bytes.length, name);
  return READERS[container](bytes, name);
}

/** Why a file that begins as neither format does is refused. */
export function notSound(bytes: number, name: string): KinetikonError {
  if (bytes === 0) return new KinetikonError('file.empty', `${name} is empty.`, { kept: 'Nothing was brought in.' });
  return new KinetikonError('file.unsupported', `${name} is neither ${containerNames('nor')}.`, {
    kept: 'Nothing was brought in.',
    next: `Save it as ${containerNames('or')} and bring it in again.`,
  });
}
