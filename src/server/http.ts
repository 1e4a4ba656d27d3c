import { randomUUID } from 'node:crypto';
import * as yup from 'yup';
import { KinetikonError, messageOf, type ErrorCode } from '@/core/errors';
import { OWNER_HEADER } from '@/core/protocol/http';
import { BoundedJsonReader } from '@/core/formats/boundedJson';
import { isId } from '@/core/session/fields';
import { quoted } from '@/core/text';
import { dataFolder } from './db/client';
import { ownsFolder } from './db/lock';
import { fullDisk, needRoom } from './disk';
import { log } from './log';
import { metrics, routeOf } from './metrics';

const STATUS: Partial<Record<ErrorCode, number>> = {
  'session.missing': 404,
  'asset.missing': 404,
  'asset.damaged': 500,
  'upload.lost': 409,
  'preset.missing': 404,
  'render.missing': 404,
  'session.conflict': 409,
  'session.diverged': 409,
  'file.tooLarge': 413,
  'request.tooLarge': 413,
  'request.unknown': 404,
  'request.origin': 403,
  'storage.full': 507,
  'database.locked': 503,
  'database.failed': 500,
};

/** Methods of requests that need room on the disk. */
const WRITING: readonly string[] = ['POST', 'PUT', 'PATCH'];

/** Runs a handler and turns what it throws into an answer that says what happened; one log line for each request. */
export async function answer(request: Request, work: () => Promise<Response>): Promise<Response> {
  const path = new URL(request.url).pathname;
  const { method } = request;
  const id = requestId(request);
  const began = Date.now();
  const finish = (response: Response, error?: unknown) => {
    const { status } = response;
    const ms = Date.now() - began;
    metrics.requests.observe({ method, route: routeOf(path), status: String(status) }, ms / 1000);
    log('request', { id, method, path, status, ms, ...(error === undefined ? {} : { error: messageOf(error) }) });
    response.headers.set('X-Request-Id', id);
    return response;
  };
  try {
    if (request.method !== 'GET') requireSameOrigin(request);
    requireOwner(request);
    if (WRITING.includes(request.method)) await needRoom(Number(request.headers.get('content-length') ?? 0));
    return finish(await work());
  } catch (error) {
    const known = error instanceof KinetikonError ? error : fullDisk(error);
    if (known) {
      const { code, message, kept, next } = known;
      return finish(Response.json({ error: { code, message, kept, next } }, { status: STATUS[code] ?? 422 }), error);
    }
    const cause = error instanceof Error ? (error.stack ?? error.message) : String(error);
    log('failure', { id, path, cause });
    const failed = {
      code: 'database.failed',
      message: 'The server could not do that.',
      kept: 'What was saved before is untouched.',
    };
    return finish(Response.json({ error: failed }, { status: 500 }), error);
  }
}

/** The id that a proxy has given a request, or a new one: log lines and the answer have it. */
function requestId(request: Request): string {
  const given = request.headers.get('x-request-id') ?? '';
  return /^[\w-]{1,64}$/.test(given) ? given : randomUUID();
}

/** As `answer`, for a request whose path names something by an id; 404 when that is none. */
export function answerAbout(request: Request, id: string, work: () => Promise<Response>): Promise<Response> {
  return answer(request, async () => {
    if (isId(id)) return work();
    throw new KinetikonError('request.unknown', `There is nothing with the id "${quoted(id)}" here.`, {
      kept: 'Nothing was changed.',
    });
  });
}

/** @throws KinetikonError request.origin when another site's page sends a request that changes something */
function requireSameOrigin(request: Request): void {
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  const host = request.headers.get('host');
  // A page without an origin of its own, as in a sandboxed frame, sends `null`.
  const sender = origin === null ? host : URL.canParse(origin) ? new URL(origin).host : null;
  const foreign = (site !== null && site !== 'same-origin' && site !== 'none') || sender !== host;
  if (foreign)
    throw new KinetikonError('request.origin', 'Requests from other sites are refused.', {
      kept: 'Nothing was changed.',
    });
}

/** @throws KinetikonError database.locked when a command means the server of another data folder */
function requireOwner(request: Request): void {
  const token = request.headers.get(OWNER_HEADER);
  if (token === null || ownsFolder(dataFolder(), token)) return;
  throw new KinetikonError('database.locked', 'The server at this address has another data folder.', {
    kept: 'Nothing was touched.',
    next: 'Try again; the server of that folder may just have ended.',
  });
}

/**
 * Reads a JSON body of limited size and checks it.
 * @throws KinetikonError request.invalid, request.tooLarge
 */
export async function readJson<T>(request: Request, schema: yup.Schema<T>, maximumBytes: number): Promise<T> {
  const reader = new BoundedJsonReader(maximumBytes);
  for await (const part of bodyOf(request)) reader.push(part);
  const value = reader.end();
  try {
    return (await schema.validate(value, { strict: true })) as T;
  } catch (error) {
    throw new KinetikonError('request.invalid', `The request does not fit: ${messageOf(error)}.`, {
      kept: 'Nothing was changed.',
      cause: error,
    });
  }
}

/**
 * Reads the query of a request's address and checks it.
 * @throws KinetikonError request.invalid
 */
export async function readQuery<T>(request: Request, schema: yup.Schema<T>): Promise<T> {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  try {
    return (await schema.validate(query)) as T;
  } catch (error) {
    throw new KinetikonError('request.invalid', `The request does not fit: ${messageOf(error)}.`, { cause: error });
  }
}

/** The parts of a request's body as they come. */
export async function* bodyOf(request: Request): AsyncGenerator<Uint8Array> {
  if (!request.body) return;
  const reader = request.body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    yield value;
  }
}
