import { randomUUID } from 'node:crypto';
import { and, asc, eq, gt, gte, inArray, lt, sql } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { BlobHome } from '../blobs/blobHome';
import { blobsOf } from '../blobs/blobs';
import { inPieces, PIECE_BYTES, sumOf, type Parts } from '../blobs/pieces';
import { secondsAgo } from '../db/ago';
import type { Database, Work } from '../db/database';
import { blobPieces, uploads } from '../db/schema';

/** A heartbeat is written so often ... */
const BEAT_MS = 10_000;
/** ... and an upload without one for so long counts as dead. */
const DEAD_SECONDS = 60;
/** Age from which on what a killed writer left in the home of blobs is removed. */
const LEFTOVER_MS = 24 * 3600 * 1000;

/** The heartbeat of an upload that the sweep has taken for dead. */
const DEAD = new Date(0);

const isAlive = (uploadId: string) => and(eq(uploads.id, uploadId), gt(uploads.beatAt, DEAD));

/** Runs an upload with a row that tells, by the clock of the database, that it is under way. */
export async function whileUploading<T>(db: Database, uploadId: string, work: () => Promise<T>): Promise<T> {
  await db.insert(uploads).values({ id: uploadId });
  const beat = () =>
    db
      .update(uploads)
      .set({ beatAt: sql`now()` })
      .where(isAlive(uploadId));
  // One that fails is followed by the next; if none gets through the upload fails when it is published.
  const timer = setInterval(() => void beat().catch(() => undefined), BEAT_MS);
  try {
    return await work();
  } finally {
    clearInterval(timer);
  }
}

/**
 * Ends an upload in the transaction that makes its blob part of something.
 * @param name what is brought in
 * @throws KinetikonError upload.lost when the sweep has taken it for dead
 */
export async function endUpload(work: Work, uploadId: string, name: string): Promise<void> {
  const ended = await work.delete(uploads).where(isAlive(uploadId)).returning({ id: uploads.id });
  if (ended.length > 0) return;
  throw new KinetikonError('upload.lost', `The upload of ${name} stood still for too long.`, {
    kept: 'Nothing was brought in.',
    next: 'Bring the sound file in again.',
  });
}

/** Keeps the checksums of a blob's pieces, by which it is read. */
export async function keepSums(work: Work, blobId: string, sums: readonly string[]): Promise<void> {
  if (sums.length > 0) await work.insert(blobPieces).values(sums.map((sum, piece) => ({ blobId, piece, sum })));
}

/**
 * Stores bytes as a blob, and then does what makes it part of something.
 * @param name used in errors
 * @param publish gets the blob's id, in the transaction that ends the upload
 * @throws KinetikonError upload.lost, and what `publish` throws; then nothing is left behind
 */
export async function storeBlob<T>(
  db: Database,
  name: string,
  body: Parts,
  publish: (work: Work, blobId: string) => Promise<T>,
): Promise<T> {
  const blobId = randomUUID();
  return whileUploading(db, blobId, async () => {
    const blob = await blobsOf(db).write(blobId);
    let isKept = false;
    try {
      const sums: string[] = [];
      for await (const piece of inPieces(body)) {
        sums.push(sumOf(piece));
        await blob.append(piece);
      }
      await blob.finish();
      const result = await db.transaction(async (work) => {
        await endUpload(work, blobId, name);
        await keepSums(work, blobId, sums);
        return publish(work, blobId);
      });
      isKept = true;
      return result;
    } finally {
      if (!isKept) {
        await blob.abandon();
        await discard(db, [blobId]);
      }
    }
  });
}

/** Leaves blobs to the sweep: as uploads that are dead. */
export async function abandonBlobs(work: Work, ids: readonly string[]): Promise<void> {
  await work.delete(blobPieces).where(inArray(blobPieces.blobId, [...ids]));
  await work.insert(uploads).values(ids.map((id) => ({ id, beatAt: DEAD })));
}

/** Removes the blobs of uploads, and then their rows, which stay for the sweep if that cannot be done now. */
export async function discard(db: Database, uploadIds: readonly string[]): Promise<void> {
  await blobsOf(db).remove(uploadIds);
  await db.delete(uploads).where(inArray(uploads.id, [...uploadIds]));
}

/**
 * Bytes `from` up to `to` of a blob, each piece checked before any of it is given.
 * @param bytes length of the blob
 * @param damaged makes the error for a piece that is missing or has changed
 * @param home where the blob is, if not in the home of the database's blobs
 */
export async function* readBlob(
  db: Database,
  blobId: string,
  bytes: number,
  from: number,
  to: number,
  damaged: (why: string) => KinetikonError,
  home: BlobHome = blobsOf(db),
): AsyncGenerator<Uint8Array> {
  const end = Math.min(to, bytes);
  const first = Math.floor(from / PIECE_BYTES);
  const last = Math.ceil(end / PIECE_BYTES);
  const sums = await db
    .select({ sum: blobPieces.sum })
    .from(blobPieces)
    .where(and(eq(blobPieces.blobId, blobId), gte(blobPieces.piece, first), lt(blobPieces.piece, last)))
    .orderBy(asc(blobPieces.piece));
  const whole = Math.min(bytes, last * PIECE_BYTES);
  let piece = first;
  for await (const data of inPieces(home.read(blobId, first * PIECE_BYTES, whole))) {
    if (sumOf(data) !== sums[piece - first]?.sum) throw damaged(`piece ${piece + 1} has changed`);
    const start = piece * PIECE_BYTES;
    piece++;
    yield data.subarray(Math.max(0, from - start), end - start);
  }
  if (piece < last) throw damaged(`piece ${piece + 1} is missing`);
}

/**
 * Removes the blobs of uploads whose heartbeat has stopped, and what killed writers left behind.
 * @returns how many blobs were removed
 */
export async function sweepUploads(db: Database): Promise<number> {
  // Marked first, so that an upload that goes on after all cannot become an asset without its bytes.
  const dead = await db
    .update(uploads)
    .set({ beatAt: DEAD })
    .where(lt(uploads.beatAt, secondsAgo(DEAD_SECONDS)))
    .returning({ id: uploads.id });
  if (dead.length > 0) {
    await discard(
      db,
      dead.map(({ id }) => id),
    );
  }
  await blobsOf(db).sweep(LEFTOVER_MS);
  return dead.length;
}
