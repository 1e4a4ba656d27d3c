import { mediaTypeOf, type ContainerId } from '@/core/formats/soundFormats';
import { KinetikonError } from '@/core/errors';
import { NAME_LENGTH } from '@/core/session/nameLength';
import { cutText, textFlaw } from '@/core/text';
import { database } from '../db/client';
import { answer, answerAbout, bodyOf } from '../http';
import * as assets from '../repositories/assets';
import { bytesAnswer, FOREVER } from './bytesAnswer';

/** Stores the request's body; the file's name comes percent-encoded in the header `x-file-name`. */
export function uploadAsset(request: Request): Promise<Response> {
  return answer(request, async () => {
    const name = nameFrom(request.headers.get('x-file-name') ?? '');
    const asset = await assets.storeAsset(await database(), name, bodyOf(request));
    // Sounds are known by their content: one that is there already still has the name it came under this time.
    return Response.json({ asset: { ...asset, name } }, { status: 201 });
  });
}

function nameFrom(header: string): string {
  let name = '';
  try {
    name = decodeURIComponent(header).split(/[/\\]/).pop()!.trim();
  } catch {
    name = '';
  }
  if (name === '' || textFlaw(name)) {
    throw new KinetikonError('request.invalid', 'A sound needs the name of its file in the header x-file-name.', {
      kept: 'Nothing was brought in.',
    });
  }
  return cutText(name, NAME_LENGTH);
}

/** Sounds that nothing has used for a while. */
export function listUnused(request: Request): Promise<Response> {
  return answer(request, async () => Response.json({ unused: await assets.unusedAssets(await database()) }));
}

/** Removes them; answers with what went. */
export function sweepUnused(request: Request): Promise<Response> {
  return answer(request, async () => Response.json({ unused: await assets.sweepAssets(await database()) }));
}

/** The bytes of a sound, or the range of them that is asked for. */
export function downloadAsset(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    const db = await database();
    const { bytes, format } = await assets.findAsset(db, id);
    const read = (from: number, to: number) => assets.readAsset(db, id, from, to);
    return bytesAnswer(request, { id, bytes, type: mediaTypeOf(format as ContainerId), read });
  });
}

export function downloadPeaks(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    const { peaks } = await assets.findAsset(await database(), id);
    return new Response(Buffer.from(peaks), { headers: { ...FOREVER, 'Content-Type': 'application/octet-stream' } });
  });
}
