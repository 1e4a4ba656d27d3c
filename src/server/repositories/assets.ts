import { createHash, randomUUID } from 'node:crypto';
import { and, eq, notInArray } from 'drizzle-orm';
import { computePeaks } from '@/core/analysis/peaks';
import { KinetikonError } from '@/core/errors';
import { readSound } from '@/core/formats/readSound';
import { MAXIMUM_ASSET_BYTES } from '@/core/protocol/http';
import type { Asset } from '@/core/session/records';
import type { Database } from '../db/client';
import { assetChunks, assets } from '../db/schema';

const PIECE_BYTES = 1024 * 1024;

const missing = (id: string) =>
  new KinetikonError('asset.missing', `There is no sound ${id.slice(0, 12)}.`, {
    next: 'Bring the sound file in again.',
  });

const toAsset = (row: Asset): Asset => ({
  id: row.id,
  name: row.name,
  frames: row.frames,
  sampleRateHz: row.sampleRateHz,
  channels: row.channels,
});

/** @throws KinetikonError asset.missing */
export async function findAsset(
  db: Database,
  id: string,
): Promise<Asset & { bytes: number; format: string; peaks: Uint8Array }> {
  const [row] = await db.select().from(assets).where(eq(assets.id, id));
  if (!row) throw missing(id);
  return { ...toAsset(row), bytes: row.bytes, format: row.format, peaks: row.peaks };
}

/**
 * Stores a sound file piece by piece as it arrives, each piece for itself so that others are not held up; the asset
 * exists from the last write on, named by its content.
 * @throws KinetikonError file.tooLarge and those of `readSound`; then nothing is left behind
 */
export async function storeAsset(db: Database, name: string, body: AsyncIterable<Uint8Array>): Promise<Asset> {
  const uploadId = randomUUID();
  const hash = createHash('sha256');
  const parts: Uint8Array[] = [];
  let total = 0;
  let waiting: Buffer = Buffer.alloc(0);
  let piece = 0;
  const put = async (data: Uint8Array) => {
    await db.insert(assetChunks).values({ uploadId, piece: piece++, data });
  };
  try {
    for await (const part of body) {
      total += part.length;
      if (total > MAXIMUM_ASSET_BYTES) {
        throw new KinetikonError('file.tooLarge', `${name} is larger than ${MAXIMUM_ASSET_BYTES / 1024 / 1024} MiB.`, {
          kept: 'Nothing was brought in.',
        });
      }
      hash.update(part);
      parts.push(part);
      waiting = Buffer.concat([waiting, part]);
      while (waiting.length >= PIECE_BYTES) {
        await put(waiting.subarray(0, PIECE_BYTES));
        waiting = waiting.subarray(PIECE_BYTES);
      }
    }
    if (waiting.length > 0) await put(waiting);
    const file = Buffer.concat(parts);
    const sound = await readSound(new Uint8Array(file.buffer, file.byteOffset, file.byteLength), name);
    const frames = sound.channels[0]!.length;
    const peaks = computePeaks(sound.channels);
    const id = hash.digest('hex');
    const published = await db
      .insert(assets)
      .values({
        id,
        uploadId,
        name,
        format: file.toString('latin1', 0, 4) === 'fLaC' ? 'flac' : 'wav',
        bytes: total,
        sampleRateHz: sound.sampleRateHz,
        frames,
        channels: sound.channels.length,
        peaks: new Uint8Array(peaks.buffer, peaks.byteOffset, peaks.byteLength),
      })
      .onConflictDoNothing()
      .returning({ id: assets.id });
    if (published.length === 0) await discard(db, uploadId);
    return toAsset(await findAsset(db, id));
  } catch (error) {
    await discard(db, uploadId);
    throw error;
  }
}

async function discard(db: Database, uploadId: string): Promise<void> {
  await db.delete(assetChunks).where(eq(assetChunks.uploadId, uploadId));
}

/** The bytes of an asset as it was brought in, piece by piece. */
export async function* readAsset(db: Database, id: string): AsyncGenerator<Uint8Array> {
  const [row] = await db.select({ uploadId: assets.uploadId }).from(assets).where(eq(assets.id, id));
  if (!row) throw missing(id);
  for (let piece = 0; ; piece++) {
    const [chunk] = await db
      .select({ data: assetChunks.data })
      .from(assetChunks)
      .where(and(eq(assetChunks.uploadId, row.uploadId), eq(assetChunks.piece, piece)));
    if (!chunk) return;
    yield chunk.data;
  }
}

/** Removes the pieces of uploads that never became an asset: to be called before anything is uploaded. */
export async function sweepUploads(db: Database): Promise<number> {
  const kept = db.select({ uploadId: assets.uploadId }).from(assets);
  const swept = await db
    .delete(assetChunks)
    .where(notInArray(assetChunks.uploadId, kept))
    .returning({ piece: assetChunks.piece });
  return swept.length;
}
