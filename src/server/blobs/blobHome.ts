/** Writes one blob. It exists once `finish` is done. */
export interface BlobWriter {
  /** @param piece `PIECE_BYTES` long; only the last may be shorter */
  append(piece: Uint8Array): Promise<void>;
  finish(): Promise<void>;
  /** Leaves nothing behind. Does nothing after `finish`. */
  abandon(): Promise<void>;
}

/** A home of blobs: sequences of bytes, each written once, whole, and never changed. Ids are UUIDs. */
export interface BlobHome {
  /** Named in the health report and by `data move`. */
  readonly name: string;
  write(id: string): Promise<BlobWriter>;
  /**
   * Bytes `from` up to `to`, in parts of any size; fewer where the blob ends before.
   * @param from a multiple of `PIECE_BYTES`
   */
  read(id: string, from: number, to: number): AsyncGenerator<Uint8Array>;
  /** Length in bytes; null if there is no such blob. */
  size(id: string): Promise<number | null>;
  /** Removes blobs; those that are not there are no error. */
  remove(ids: readonly string[]): Promise<void>;
  /**
   * Removes what writers that were killed have left behind, where such leftovers are apart from blobs.
   * @param olderThanMs younger ones may still be written
   */
  sweep(olderThanMs: number): Promise<void>;
  /** True if blobs can be written and read now. */
  works(): Promise<boolean>;
}
