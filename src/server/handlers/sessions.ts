import { createSessionRequest, MAXIMUM_SESSION_BYTES, saveSessionRequest } from '@/core/protocol/http';
import type { SaveSessionRequest } from '@/core/protocol/http';
import { validateDocument } from '@/core/session/document';
import { EMPTY_HISTORY, validateHistory } from '@/core/session/history';
import { newDocument } from '@/core/session/records';
import { database } from '../db/client';
import { answer, readJson } from '../http';
import * as sessions from '../repositories/sessions';

export function listSessions(request: Request): Promise<Response> {
  return answer(request, async () => Response.json({ sessions: await sessions.listSessions(await database()) }));
}

export function createSession(request: Request): Promise<Response> {
  return answer(request, async () => {
    const body = await readJson(request, createSessionRequest, MAXIMUM_SESSION_BYTES);
    const document = body.document ? validateDocument(body.document) : newDocument(body.name);
    // Steps of an older version do not fit a document that has been brought up to date.
    const asItCame = !body.document || document === (body.document as unknown);
    const history = asItCame && body.history ? validateHistory(body.history) : EMPTY_HISTORY;
    const named = { ...document, session: { ...document.session, name: body.name } };
    return Response.json(await sessions.createSession(await database(), named, history, body.id), { status: 201 });
  });
}

export function loadSession(request: Request, id: string): Promise<Response> {
  return answer(request, async () => Response.json(await sessions.loadSession(await database(), id)));
}

export function saveSession(request: Request, id: string): Promise<Response> {
  return answer(request, async () => {
    const body = await readJson(request, saveSessionRequest, MAXIMUM_SESSION_BYTES);
    const document = validateDocument(body.document);
    const save = { ...body, document } as SaveSessionRequest;
    return Response.json({ revision: await sessions.saveSession(await database(), id, save) });
  });
}

export function removeSession(request: Request, id: string): Promise<Response> {
  return answer(request, async () => {
    await sessions.removeSession(await database(), id);
    return new Response(null, { status: 204 });
  });
}
