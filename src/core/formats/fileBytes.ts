/** A file of which parts can be read. */
export interface FileBytes {
  readonly size: number;
  /** Bytes `from` up to `to`; fewer at the end. */
  read(from: number, to: number): Promise<Uint8Array>;
}

/** A file that is there as a whole. */
export const bytesOf = (bytes: Uint8Array): FileBytes => ({
  size: bytes.length,
  read: async (from, to) => bytes.subarray(from, to),
});

/** A file of the browser's, or a part of one. */
export const blobBytes = (blob: Blob): FileBytes => ({
  size: blob.size,
  read: async (from, to) => new Uint8Array(await blob.slice(from, to).arrayBuffer()),
});
