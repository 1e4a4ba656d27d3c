import { randomUUID } from 'node:crypto';
import type { SaveSessionRequest } from '@/core/protocol/http';
import { documentChecksum } from '@/core/session/checksum';
import type { SessionDocument } from '@/core/session/records/document';

/** A request to a handler, from the same host; bytes are sent as they are, other bodies as JSON. */
export const ask = (method: string, body?: unknown, headers: Record<string, string> = {}, query = '') =>
  new Request(`http://127.0.0.1/api${query}`, {
    method,
    headers: { host: '127.0.0.1', ...headers },
    ...(body === undefined ? {} : { body: body instanceof Uint8Array ? (body as BodyInit) : JSON.stringify(body) }),
  });

/** A save of a whole document over a revision, with no change of its history. */
export const saveOf = (revision: number, document: SessionDocument): SaveSessionRequest => ({
  revision,
  saveId: randomUUID(),
  unanswered: [],
  document,
  checksum: documentChecksum(document),
  history: { keep: 0, append: [], first: 0, cursor: 0 },
});
