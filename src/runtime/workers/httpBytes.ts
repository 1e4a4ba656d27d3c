import { KinetikonError } from '@/core/errors';
import type { FileBytes } from '@/core/formats/fileBytes';

/**
 * A file of the server's, read by ranges.
 * @param name used in errors
 * @throws KinetikonError asset.missing, database.failed; so does reading it
 */
export async function httpBytes(url: string, name: string): Promise<FileBytes> {
  const fetched = async (from: number, to: number): Promise<Response> => {
    let response: Response;
    try {
      // A cache that puts ranges together would give the headers of one of them for the whole.
      response = await fetch(url, { cache: 'no-store', headers: { Range: `bytes=${from}-${to - 1}` } });
    } catch (cause) {
      throw new KinetikonError('database.failed', `The server does not answer; ${name} cannot be read.`, { cause });
    }
    if (response.status === 206) return response;
    throw new KinetikonError('asset.missing', `${name} could not be read from the server (${response.status}).`, {
      next: 'Bring the same file in once more.',
    });
  };
  const first = await fetched(0, 1);
  await first.arrayBuffer();
  const size = Number(/\/(\d+)$/.exec(first.headers.get('Content-Range') ?? '')?.[1]);
  if (!(size > 0)) throw new KinetikonError('asset.missing', `The server does not tell how long ${name} is.`);
  return {
    size,
    read: async (from, to) => {
      const end = Math.min(size, to);
      if (end <= from) return new Uint8Array();
      const bytes = new Uint8Array(await (await fetched(from, end)).arrayBuffer());
      if (bytes.length === end - from) return bytes;
      throw new KinetikonError('asset.damaged', `A part of ${name} did not arrive whole.`);
    },
  };
}
