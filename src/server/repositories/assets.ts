import { createHash, randomUUID } from 'node:crypto';
import { and, desc, eq, inArray, lt, sql } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import { MAXIMUM_ASSET_BYTES, type UnusedAsset } from '@/core/protocol/http';
import type { Asset } from '@/core/session/records/clips';
import { blobsOf } from '../blobs/blobs';
import { gathered, inPieces, sumOf } from '../blobs/pieces';
import { daysAgo } from '../db/ago';
import { lockUntilEnd, SWEEP } from '../db/advisoryLocks';
import type { Database } from '../db/database';
import { assets, soundUses } from '../db/schema';
import { needRoom, RESERVE } from '../disk';
import { SoundCheck } from '../sounds/soundCheck';
import { abandonBlobs, discard, endUpload, keepSums, readBlob, whileUploading } from './blobs';

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

/**
 * Stores a sound file piece by piece as it arrives, and checks it beside in a thread of its own. The asset exists from
 * the last write on, named by its content. Of the file two pieces at a time are in memory, and what the home of blobs
 * and the thread hold of it (see `SoundScanner`).
 * @param isTemporary true for sounds that nobody will use again
 * @throws KinetikonError file.tooLarge, upload.lost and those of `readSound`; then nothing is left behind
 */
export async function storeAsset(
  db: Database,
  name: string,
  body: AsyncIterable<Uint8Array>,
  { isTemporary = false }: { isTemporary?: boolean } = {},
): Promise<Asset> {
  const blobs = blobsOf(db);
  const uploadId = randomUUID();
  return whileUploading(db, uploadId, async () => {
    const hash = createHash('sha256');
    const sums: string[] = [];
    const check = new SoundCheck(name);
    const blob = await blobs.write(uploadId);
    let bytes = 0;
    /** The blob that nothing uses in the end: of a failed or a duplicate upload, or the damaged one it replaces. */
    let left: string | null = uploadId;
    try {
      for await (const data of inPieces(body)) {
        bytes += data.length;
        if (bytes > MAXIMUM_ASSET_BYTES) throw tooLarge(name);
        await needRoom(data.length, RESERVE.sounds);
        hash.update(data);
        sums.push(sumOf(data));
        await check.push(data);
        await blob.append(data);
      }
      const { peaks, ...facts } = await check.end();
      await blob.finish();
      const asset = { id: hash.digest('hex'), name, ...facts };
      const row = {
        ...asset,
        temporary: isTemporary,
        uploadId,
        bytes,
        peaks: new Uint8Array(peaks.buffer, peaks.byteOffset, peaks.byteLength),
      };
      const published = await publish(db, row, sums);
      left = published.left;
      return toAsset({ ...asset, name: published.name });
    } finally {
      check.close();
      if (left === uploadId) await blob.abandon();
      if (left !== null) await discard(db, [left]);
    }
  });
}

const tooLarge = (name: string) =>
  new KinetikonError('file.tooLarge', `${name} is larger than ${MAXIMUM_ASSET_BYTES / 1024 ** 3} GiB.`, {
    kept: 'Nothing was brought in.',
  });

/**
 * Makes an upload the asset of its content. One that is there already stays, unless bytes of it are missing.
 * @returns the name of the asset, and the blob that it leaves to the sweep
 * @throws KinetikonError upload.lost when the sweep has taken the upload for dead
 */
async function publish(
  db: Database,
  row: typeof assets.$inferInsert,
  sums: readonly string[],
): Promise<{ name: string; left: string | null }> {
  const [before] = await db.select({ uploadId: assets.uploadId }).from(assets).where(eq(assets.id, row.id));
  const isWhole = before !== undefined && (await blobsOf(db).size(before.uploadId)) === row.bytes;
  return db.transaction(async (work) => {
    await endUpload(work, row.uploadId, row.name);
    const [kept] = await work
      .insert(assets)
      .values(row)
      .onConflictDoUpdate({
        target: assets.id,
        set: { usedAt: sql`now()`, temporary: sql`${assets.temporary} and excluded.temporary` },
      })
      .returning({ uploadId: assets.uploadId, name: assets.name });
    const { uploadId, name } = kept!;
    const isReplaced = uploadId === before?.uploadId && !isWhole;
    const left = isReplaced ? uploadId : uploadId === row.uploadId ? null : row.uploadId;
    if (isReplaced) await work.update(assets).set({ uploadId: row.uploadId }).where(eq(assets.id, row.id));
    if (left !== row.uploadId) await keepSums(work, row.uploadId, sums);
    if (left !== null) await abandonBlobs(work, [left]);
    return { name, left };
  });
}

/**
 * Bytes `from` up to `to` of an asset as it was brought in, each piece checked before any of it is given.
 * @param to past the end for all that is there
 * @throws KinetikonError asset.missing, and asset.damaged at the first piece that is missing or has changed
 */
export async function* readAsset(db: Database, id: string, from = 0, to = Infinity): AsyncGenerator<Uint8Array> {
  const [row] = await db.select().from(assets).where(eq(assets.id, id));
  if (!row) throw missing(id);
  yield* readBlob(db, row.uploadId, row.bytes, from, to, (why) => damaged(row.name, why));
}

/** The file of an asset, of which parts can be read. */
export const assetFile = (db: Database, asset: Pick<Asset, 'id' | 'name'> & { readonly bytes: number }) => ({
  name: asset.name,
  size: asset.bytes,
  read: (from: number, to: number): Promise<Uint8Array> => gathered(readAsset(db, asset.id, from, to)),
});

/** Sounds that are swept in one transaction. */
const MOST_SWEPT = 5000;

/** Days for which a sound that nothing uses any more is kept all the same. */
export const UNUSED_DAYS = 7;

/**
 * Sounds that nothing uses and nothing has used for a while.
 * @param days how long nothing may have used them
 */
function isUnused(days: number) {
  const uses = sql`select 1 from ${soundUses} where ${soundUses.soundId} = ${assets.id}`;
  return and(lt(assets.usedAt, daysAgo(days)), sql`not exists (${uses})`);
}

/** Sounds that may be swept, largest first. */
export async function unusedAssets(db: Database, days = UNUSED_DAYS): Promise<UnusedAsset[]> {
  const { id, name, bytes } = assets;
  return db.select({ id, name, bytes }).from(assets).where(isUnused(days)).orderBy(desc(bytes));
}

/**
 * Takes the sounds away that `unusedAssets` tells; nothing can begin to use one while that is decided.
 * @param which all, or those alone that go by themselves
 */
export async function sweepAssets(
  db: Database,
  days = UNUSED_DAYS,
  which: 'all' | 'temporary' = 'all',
): Promise<UnusedAsset[]> {
  const { id, name, bytes, uploadId, temporary } = assets;
  const some = db
    .select({ id })
    .from(assets)
    .where(and(isUnused(days), which === 'all' ? undefined : eq(temporary, true)))
    .limit(MOST_SWEPT);
  const all: UnusedAsset[] = [];
  for (;;) {
    const gone = await db.transaction(async (work) => {
      await lockUntilEnd(work, SWEEP);
      const swept = await work.delete(assets).where(inArray(id, some)).returning({ id, name, bytes, uploadId });
      if (swept.length > 0) {
        await abandonBlobs(
          work,
          swept.map((one) => one.uploadId),
        );
      }
      return swept;
    });
    if (gone.length === 0) return all.sort((a, b) => b.bytes - a.bytes);
    await discard(
      db,
      gone.map((one) => one.uploadId),
    );
    all.push(...gone.map((one) => ({ id: one.id, name: one.name, bytes: one.bytes })));
  }
}
