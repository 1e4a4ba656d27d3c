import { messageOf } from '@/core/errors';
import { log } from '../log';
import { rangeOf } from '../ranges';

/** Bytes never change under their id. */
export const FOREVER = { 'Cache-Control': 'private, max-age=31536000, immutable' };

interface Bytes {
  readonly id: string;
  readonly bytes: number;
  readonly type: string;
  readonly read: (from: number, to: number) => AsyncGenerator<Uint8Array>;
}

/**
 * An answer with bytes, or with the range of them that is asked for. The header `X-Bytes` tells how many follow.
 * @throws KinetikonError what reading the first piece throws
 */
export async function bytesAnswer(request: Request, { id, bytes, type, read }: Bytes): Promise<Response> {
  const tag = `"${id}"`;
  const headers = { ...FOREVER, ETag: tag, 'Accept-Ranges': 'bytes' };
  if (request.headers.get('if-none-match') === tag) return new Response(null, { status: 304, headers });
  const isCurrent = [null, tag].includes(request.headers.get('if-range'));
  const range = isCurrent ? rangeOf(request.headers.get('range'), bytes) : null;
  if (range === 'none') {
    return new Response(null, { status: 416, headers: { ...headers, 'Content-Range': `bytes */${bytes}` } });
  }
  const { from, to } = range ?? { from: 0, to: bytes };
  const body = await streamOf(read(from, to), (error) => log('bytes.damaged', { id, cause: messageOf(error) }));
  return new Response(body, {
    status: range ? 206 : 200,
    headers: {
      ...headers,
      ...(range ? { 'Content-Range': `bytes ${from}-${to - 1}/${bytes}` } : {}),
      'Content-Type': type,
      'X-Bytes': String(to - from),
    },
  });
}

/** Pieces as a stream. A fault of the first one is thrown, so that the status can still report it. */
async function streamOf(
  pieces: AsyncGenerator<Uint8Array>,
  onFault: (error: unknown) => void,
): Promise<ReadableStream<Uint8Array>> {
  let next = await pieces.next();
  return new ReadableStream<Uint8Array>({
    async pull(controller) {
      try {
        if (next.done) return controller.close();
        controller.enqueue(next.value);
        next = await pieces.next();
      } catch (error) {
        onFault(error);
        controller.error(error);
      }
    },
    cancel: () => void pieces.return(undefined),
  });
}
