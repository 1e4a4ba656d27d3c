import { KinetikonError } from '@/core/errors';
import { rangedBytes, type FileBytes } from '@/core/formats/fileBytes';

/**
 * A file of the server's, read by ranges.
 * @param name used in errors
 * @throws KinetikonError asset.missing, database.failed; so does reading it
 */
export function httpBytes(url: string, name: string): Promise<FileBytes> {
  return rangedBytes(async (range) => {
    let response: Response;
    try {
      // A cache that puts ranges together would give the headers of one of them for the whole.
      response = await fetch(url, { cache: 'no-store', headers: { Range: range } });
    } catch (cause) {
      throw new KinetikonError('database.failed', `The server does not answer; ${name} cannot be read.`, { cause });
    }
    if (response.status === 206) return response;
    throw new KinetikonError('asset.missing', `${name} could not be read from the server (${response.status}).`, {
      next: 'Bring the same file in once more.',
    });
  }, name);
}
