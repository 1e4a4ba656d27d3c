import { KinetikonError } from '../errors';

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

/** The parts of an HTTP answer that a file needs. */
interface RangeAnswer {
  readonly headers: { get(name: string): string | null };
  arrayBuffer(): Promise<ArrayBuffer>;
}

/**
 * A file of a server's, read by ranges.
 * @param ask fetches a value of the header Range; throws where that is not answered with a part
 * @param name used in errors
 * @throws KinetikonError asset.missing where the server does not tell how long the file is; reading it asset.damaged; and what
 * `ask` throws
 */
export async function rangedBytes(ask: (range: string) => Promise<RangeAnswer>, name: string): Promise<FileBytes> {
  const first = await ask('bytes=0-0');
  await first.arrayBuffer();
  const size = Number(/\/(\d+)$/.exec(first.headers.get('Content-Range') ?? '')?.[1]);
  if (!(size > 0)) throw new KinetikonError('asset.missing', `The server does not tell how long ${name} is.`);
  return {
    size,
    read: async (from, to) => {
      const end = Math.min(size, to);
      if (end <= from) return new Uint8Array();
      const bytes = new Uint8Array(await (await ask(`bytes=${from}-${end - 1}`)).arrayBuffer());
      if (bytes.length === end - from) return bytes;
      throw new KinetikonError('asset.damaged', `A part of ${name} did not arrive whole.`);
    },
  };
}

/** A file of the browser's, or a part of one. */
export const blobBytes = (blob: Blob): FileBytes => ({
  size: blob.size,
  read: async (from, to) => new Uint8Array(await blob.slice(from, to).arrayBuffer()),
});
