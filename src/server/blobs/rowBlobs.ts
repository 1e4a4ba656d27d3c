import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Database } from '../db/database';
import { assetChunks } from '../db/schema';
import type { BlobHome, BlobWriter } from './blobHome';
import { PIECE_BYTES } from './pieces';

/** Blobs as rows of the database, a piece a row: the home of a single desk. */
export class RowBlobs implements BlobHome {
  readonly name = 'rows of the database';

  constructor(private readonly db: Database) {}

  async write(id: string): Promise<BlobWriter> {
    let piece = 0;
    let finished = false;
    return {
      // Each piece is a write of its own, so that others are not held up.
      append: async (data) => {
        await this.db.insert(assetChunks).values({ uploadId: id, piece: piece++, data });
      },
      finish: async () => {
        finished = true;
      },
      abandon: async () => {
        if (!finished) await this.remove([id]);
      },
    };
  }

  async *read(id: string, from: number, to: number): AsyncGenerator<Uint8Array> {
    for (let piece = from / PIECE_BYTES; piece * PIECE_BYTES < to; piece++) {
      const [row] = await this.db
        .select({ data: assetChunks.data })
        .from(assetChunks)
        .where(and(eq(assetChunks.uploadId, id), eq(assetChunks.piece, piece)));
      if (!row) return;
      yield row.data.subarray(0, to - piece * PIECE_BYTES);
    }
  }

  async size(id: string): Promise<number | null> {
    const [sum] = await this.db
      .select({ bytes: sql<string | null>`sum(length(${assetChunks.data}))` })
      .from(assetChunks)
      .where(eq(assetChunks.uploadId, id));
    return sum!.bytes === null ? null : Number(sum!.bytes);
  }

  async remove(ids: readonly string[]): Promise<void> {
    await this.db.delete(assetChunks).where(inArray(assetChunks.uploadId, [...ids]));
  }

  /** Rows of an upload that was killed are those of its id: they go with it. */
  async sweep(): Promise<void> {}

  async works(): Promise<boolean> {
    await this.db.select({ piece: assetChunks.piece }).from(assetChunks).limit(1);
    return true;
  }
}
