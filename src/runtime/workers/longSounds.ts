import type { FileBytes } from '@/core/formats/fileBytes';
import type { LongSound } from '@/core/jobs/place';
import { assetOfSound } from '@/core/session/records/sounds';
import { inBlocks } from '@/core/formats/inBlocks';
import { httpBytes } from './httpBytes';

/**
 * The file of a long sound, read from the server by ranges.
 * @throws KinetikonError asset.missing, database.failed; so does reading it
 */
export async function openLong({ assetId, name }: Pick<LongSound, 'assetId' | 'name'>): Promise<FileBytes> {
  return inBlocks(await httpBytes(`/api/assets/${assetOfSound(assetId).assetId}`, name));
}
