import {
  changeSessionRequest,
  createSessionRequest,
  MAXIMUM_SESSION_BYTES,
  saveSessionRequest,
  sessionQuery,
  type SaveSessionRequest,
  type SessionQuery,
} from '@/core/protocol/http';
import { validateDocument } from '@/core/session/document';
import { EMPTY_HISTORY, validateHistory } from '@/core/session/storedHistory';
import { newDocument } from '@/core/session/records/factories';
import { database } from '../db/client';
import { copyDemo, demoSounds } from '../demo';
import { freeBytes } from '../disk';
import { answer, answerAbout, readJson, readQuery } from '../http';
import { listSessions as listPage } from '../repositories/sessionList';
import * as sessions from '../repositories/sessions';

/** Name of a session that nobody has named yet. */
const UNNAMED = 'Untitled';

export function listSessions(request: Request): Promise<Response> {
  return answer(request, async () => {
    const query = await readQuery(request, sessionQuery);
    return Response.json(await listPage(await database(), query as SessionQuery));
  });
}

export function createSession(request: Request): Promise<Response> {
  return answer(request, async () => {
    const body = await readJson(request, createSessionRequest, MAXIMUM_SESSION_BYTES);
    const name = body.name ?? UNNAMED;
    const document = body.document ? validateDocument(body.document) : newDocument(name);
    // Steps of an older version do not fit a document that has been brought up to date.
    const asItCame = !body.document || document === (body.document as unknown);
    const history = asItCame && body.history ? validateHistory(body.history) : EMPTY_HISTORY;
    const named = { ...document, session: { ...document.session, name } };
    const isNameFreed = body.isNameFreed ?? body.name === undefined;
    const made = await sessions.createSession(await database(), named, { history, id: body.id, isNameFreed });
    return Response.json(made, { status: 201 });
  });
}

/** The sounds of the demo, where it has been put in. */
export function listDemoSounds(request: Request): Promise<Response> {
  return answer(request, async () => Response.json({ assets: await demoSounds(await database()) }));
}

/** A session of its own from the demo's. */
export function openDemo(request: Request): Promise<Response> {
  return answer(request, async () => Response.json({ id: await copyDemo(await database()) }, { status: 201 }));
}

export function changeSession(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    const change = await readJson(request, changeSessionRequest, MAXIMUM_SESSION_BYTES);
    await sessions.changeSession(await database(), id, change);
    return new Response(null, { status: 204 });
  });
}

export function loadSession(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => Response.json(await sessions.loadSession(await database(), id)));
}

export function saveSession(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    const body = await readJson(request, saveSessionRequest, MAXIMUM_SESSION_BYTES);
    const whole = body.document ? { document: validateDocument(body.document) } : {};
    const save = { ...body, ...whole } as SaveSessionRequest;
    const revision = await sessions.saveSession(await database(), id, save);
    return Response.json({ revision, freeBytes: await freeBytes() });
  });
}

export function removeSession(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    await sessions.removeSession(await database(), id);
    return new Response(null, { status: 204 });
  });
}
