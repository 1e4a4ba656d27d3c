import { containerOf, HEAD_BYTES, mediaTypeOf } from '@/core/formats/soundFormats';
import { MAXIMUM_SESSION_BYTES } from '@/core/protocol/http';
import { renderOrder, type RenderOrder } from '@/core/protocol/renders';
import { readRenderRequest } from '@/core/session/renderRequestSchema';
import { gathered } from '../blobs/pieces';
import { database } from '../db/client';
import { answer, answerAbout, readJson } from '../http';
import { queueOf } from '../renders/renderQueue';
import * as renders from '../repositories/renders';
import { bytesAnswer } from './bytesAnswer';

/** Renders, the newest first: all, or with `session=ID` those of one session. */
export function listRenders(request: Request): Promise<Response> {
  return answer(request, async () => {
    const sessionId = new URL(request.url).searchParams.get('session') ?? undefined;
    const db = await database();
    return Response.json({ renders: await renders.listRenders(db, sessionId), hasMachines: queueOf(db).isShared });
  });
}

/** Asks for a render; the same one is made once. */
export function orderRender(request: Request): Promise<Response> {
  return answer(request, async () => {
    const order = (await readJson(request, renderOrder, MAXIMUM_SESSION_BYTES)) as unknown as RenderOrder;
    const checked = { ...order, request: readRenderRequest(order.request) };
    return Response.json(await renders.orderRender(await database(), checked), { status: 201 });
  });
}

export function findRender(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => Response.json(await renders.findRender(await database(), id)));
}

/** Ends a render that waits or runs; removes one that has ended. */
export function cancelRender(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    await renders.cancelRender(await database(), id);
    return new Response(null, { status: 204 });
  });
}

/** The sound file that came out, or a range of it. */
export function downloadResult(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    const { bytes, read } = await renders.renderResult(await database(), id);
    const type = mediaTypeOf(containerOf(await gathered(read(0, Math.min(bytes, HEAD_BYTES))))!);
    return bytesAnswer(request, { id, bytes, type, read });
  });
}
