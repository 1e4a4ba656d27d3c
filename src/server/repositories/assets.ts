import { createHash, randomUUID } from 'node:crypto';
import { and, desc, eq, lt, notInArray, sql } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import { MAXIMUM_ASSET_BYTES, type UnusedAsset } from '@/core/protocol/http';
import type { Asset } from '@/core/session/records/clips';
import type { Database } from '../db/client';
import { assetChunks, assets } from '../db/schema';
import { needRoom, RESERVE } from '../disk';
import { SoundCheck } from '../sounds/soundCheck';

const PIECE_BYTES = 1024 * 1024;

const missing = (id: string) =>
  new KinetikonError('asset.missing', `There is no sound ${id.slice(0, 12)}.`, {
    next: 'Bring the sound file in again.',
  });

const damaged = (name: string, why: string) =>
  new KinetikonError('asset.damaged', `The sound ${name} is damaged: ${why}.`, {
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

/** Parts of any size put together to pieces of `size` bytes, the last one shorter. */
async function* inPieces(body: AsyncIterable<Uint8Array>, size: number): AsyncGenerator<Buffer> {
  let parts: Uint8Array[] = [];
  let held = 0;
  for await (const part of body) {
    parts.push(part);
    held += part.length;
    if (held < size) continue;
    let all = Buffer.concat(parts);
    for (; all.length >= size; all = all.subarray(size)) yield all.subarray(0, size);
    parts = [all];
    held = all.length;
  }
  if (held > 0) yield Buffer.concat(parts);
}

/**
 * Stores a sound file piece by piece as it arrives, each piece for itself so that others are not held up, and checks it
 * beside in a thread of its own. The asset exists from the last write on, named by its content. Of the file two pieces
 * at a time are in memory, and what the thread holds of it (see `SoundScanner`).
 * @throws KinetikonError file.tooLarge and those of `readSound`; then nothing is left behind
 */
export async function storeAsset(db: Database, name: string, body: AsyncIterable<Uint8Array>): Promise<Asset> {
  const uploadId = randomUUID();
  const hash = createHash('sha256');
  const check = new SoundCheck(name);
  let published = false;
  try {
    let bytes = 0;
    let piece = 0;
    for await (const data of inPieces(body, PIECE_BYTES)) {
      bytes += data.length;
      if (bytes > MAXIMUM_ASSET_BYTES) {
        throw new KinetikonError('file.tooLarge', `${name} is larger than ${MAXIMUM_ASSET_BYTES / 1024 / 1024} MiB.`, {
          kept: 'Nothing was brought in.',
        });
      }
      await needRoom(data.length, RESERVE.sounds);
      hash.update(data);
      await check.push(data);
      await db.insert(assetChunks).values({ uploadId, piece: piece++, data });
    }
    const { peaks, ...facts } = await check.end();
    const asset = { id: hash.digest('hex'), name, ...facts };
    const row = { ...asset, uploadId, bytes, peaks: new Uint8Array(peaks.buffer, peaks.byteOffset, peaks.byteLength) };
    const kept = await publish(db, row);
    published = kept.uploadId === uploadId;
    return toAsset({ ...asset, name: kept.name });
  } finally {
    check.close();
    // A duplicate or failed upload leaves nothing behind.
    if (!published) await discard(db, uploadId);
  }
}

/**
 * Makes an upload the asset of its content. One that is there already stays, unless pieces of it are missing.
 * @returns the upload that holds the sound from now on, and its name
 */
async function publish(db: Database, row: typeof assets.$inferInsert): Promise<{ uploadId: string; name: string }> {
  const [first] = await db
    .insert(assets)
    .values(row)
    .onConflictDoUpdate({ target: assets.id, set: { usedAt: sql`now()` } })
    .returning({ uploadId: assets.uploadId, name: assets.name });
  const { uploadId, name } = first!;
  if (uploadId === row.uploadId || (await storedBytes(db, uploadId)) === row.bytes) return { uploadId, name };
  await db.update(assets).set({ uploadId: row.uploadId }).where(eq(assets.id, row.id));
  await discard(db, uploadId);
  return { uploadId: row.uploadId, name };
}

async function storedBytes(db: Database, uploadId: string): Promise<number> {
  const [sum] = await db
    .select({ bytes: sql<string>`coalesce(sum(length(${assetChunks.data})), 0)` })
    .from(assetChunks)
    .where(eq(assetChunks.uploadId, uploadId));
  return Number(sum!.bytes);
}

async function discard(db: Database, uploadId: string): Promise<void> {
  await db.delete(assetChunks).where(eq(assetChunks.uploadId, uploadId));
}

/**
 * The bytes of an asset as it was brought in, piece by piece.
 * @throws KinetikonError asset.missing, and asset.damaged after the last piece if they are not those that came in
 */
export async function* readAsset(db: Database, id: string): AsyncGenerator<Uint8Array> {
  const [row] = await db.select().from(assets).where(eq(assets.id, id));
  if (!row) throw missing(id);
  const hash = createHash('sha256');
  let bytes = 0;
  for (let piece = 0; bytes < row.bytes; piece++) {
    const [chunk] = await db
      .select({ data: assetChunks.data })
      .from(assetChunks)
      .where(and(eq(assetChunks.uploadId, row.uploadId), eq(assetChunks.piece, piece)));
    if (!chunk) throw damaged(row.name, `piece ${piece + 1} is missing`);
    bytes += chunk.data.length;
    hash.update(chunk.data);
    yield chunk.data;
  }
  if (hash.digest('hex') !== id) throw damaged(row.name, 'its bytes have changed');
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

/** Days for which a sound that nothing uses any more is kept all the same. */
export const UNUSED_DAYS = 7;

/** Ids of sounds anywhere in sessions, their steps, what is compared, and in the demo: 64 hexadecimal figures. */
const IN_USE = sql`
  select (regexp_matches(document::text, '[0-9a-f]{64}', 'g'))[1] from sessions
  union select (regexp_matches(changes::text, '[0-9a-f]{64}', 'g'))[1] from session_changes
  union select (regexp_matches(step::text, '[0-9a-f]{64}', 'g'))[1] from session_steps
  union select (regexp_matches(value::text, '[0-9a-f]{64}', 'g'))[1] from settings`;

/**
 * Sounds that no session, print, slot or step names and none has named for a while, largest first.
 * @param days how long nothing may have named them
 */
export async function unusedAssets(db: Database, days = UNUSED_DAYS): Promise<UnusedAsset[]> {
  const { id, name, bytes, usedAt } = assets;
  const rows = await db
    .select({ id, name, bytes })
    .from(assets)
    .where(and(lt(usedAt, sql`now() - make_interval(days => ${days})`), sql`${id} not in (${IN_USE})`))
    .orderBy(desc(bytes));
  return rows;
}

/** Takes the sounds away that `unusedAssets` tells. */
export async function sweepAssets(db: Database, days = UNUSED_DAYS): Promise<UnusedAsset[]> {
  const unused = await unusedAssets(db, days);
  for (const { id } of unused) {
    await db.transaction(async (work) => {
      const [gone] = await work
        .delete(assets)
        .where(and(eq(assets.id, id), sql`${assets.id} not in (${IN_USE})`))
        .returning({ uploadId: assets.uploadId });
      if (gone) await work.delete(assetChunks).where(eq(assetChunks.uploadId, gone.uploadId));
    });
  }
  return unused;
}
