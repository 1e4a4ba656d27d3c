import { KinetikonError } from '@/core/errors';
import { inBlocks } from '@/core/formats/inBlocks';
import { openSeekable } from '@/core/formats/seekable/seekable';
import type { SeekableSound } from '@/core/formats/seekable/seekableSound';
import type { LongSound } from '@/core/jobs/place';
import { assetOfSound } from '@/core/session/records/sounds';
import { httpBytes } from './httpBytes';
import { keptPieces } from './keptPieces';
import { openUnrolled } from './unrolledFiles';

/** A server on this machine is as near as the browser's own files. */
const isServerHere = () => ['localhost', '127.0.0.1', '[::1]'].includes(self.location.hostname);

/**
 * Opens a sound of the server's for reading in any place.
 * @param onProgress told how far a sound is that has to be unrolled first, 0 to 1
 * @param onRefused told if the browser does not keep what is read, so that it is read from the server each time
 * @returns null for one that can only be read as a whole here
 * @throws KinetikonError asset.missing, database.failed, file.broken; so does reading it
 */
export async function openLong(
  { assetId, name }: Pick<LongSound, 'assetId' | 'name'>,
  onProgress: (done: number) => void = () => {},
  onRefused: () => void = () => {},
): Promise<SeekableSound | null> {
  const id = assetOfSound(assetId).assetId;
  const file = await httpBytes(`/api/assets/${id}`, name);
  const kept = isServerHere() ? file : await keptPieces(id, file, onRefused);
  return (await openSeekable(inBlocks(kept), name)) ?? openUnrolled(id, inBlocks(file), name, onProgress);
}

/** The same for work that has to have it. @throws KinetikonError storage.full too */
export async function openForWork(sound: LongSound): Promise<SeekableSound> {
  const open = await openLong(sound);
  if (open) return open;
  throw new KinetikonError('storage.full', `The browser has no room to read ${sound.name} in parts.`, {
    next: 'Free some space on the disk and try again.',
  });
}
