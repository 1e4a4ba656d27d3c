import type { Schema } from 'yup';
import { cancelled, KinetikonError, messageOf, type ErrorCode } from '@/core/errors';
import type { PresetFile } from '@/core/formats/preset';
import type {
  ChangeSessionRequest,
  PresetList,
  SavedResponse,
  SaveSessionRequest,
  SessionListPage,
  SessionQuery,
  StoredPreset,
  StoredSession,
  UnusedAsset,
} from '@/core/protocol/http';
import type { Render, RenderList, RenderOrder } from '@/core/protocol/renders';
import type { History } from '@/core/session/storedHistory';
import type { Asset } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';

/** Schemas of answers, fetched with the first request: a page is shown without them. */
const schemas = () =>
  import('@/core/protocol/http').catch((error: unknown) => {
    throw unreachable(error);
  });
type Schemas = Awaited<ReturnType<typeof schemas>>;

/** A save without an answer for so long is tried again. */
const SAVE_TIMEOUT_MS = 60000;

const unreachable = (cause: unknown) =>
  new KinetikonError('database.failed', 'The server does not answer.', {
    kept: 'Your work is kept in this browser.',
    next: 'Check that Kinetikon is running; saving is tried again.',
    cause,
  });

async function errorOf(status: number, body: unknown): Promise<KinetikonError> {
  const { errorResponse } = await schemas();
  if (errorResponse.isValidSync(body)) {
    const { code, message, kept, next } = body.error;
    return new KinetikonError(code as ErrorCode, message, { kept, next });
  }
  return new KinetikonError('database.failed', `The server answered ${status}.`);
}

async function request(path: string, init: RequestInit = {}): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch (error) {
    throw unreachable(error);
  }
  if (response.ok) return response;
  throw await errorOf(response.status, await response.json().catch(() => null));
}

async function json<T>(
  schemaOf: (all: Schemas) => Schema,
  path: string,
  method = 'GET',
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  const sent =
    body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } };
  const init: RequestInit = { method, ...sent, ...(signal ? { signal } : {}) };
  const received: unknown = await (await request(path, init)).json();
  try {
    return (await schemaOf(await schemas()).validate(received)) as T;
  } catch (error) {
    throw new KinetikonError('database.failed', `The server's answer does not fit: ${messageOf(error)}.`, {
      cause: error,
    });
  }
}

/** A session as it is stored, which may be of an older version. */
export function fetchStoredSession(id: string): Promise<StoredSession> {
  return json<StoredSession>((all) => all.storedSessionResponse, `/api/sessions/${encodeURIComponent(id)}`);
}

/** A page of the list of sessions. */
export function listSessions(query: SessionQuery = {}): Promise<SessionListPage> {
  const given = Object.entries(query).filter(([, value]) => value !== null && value !== '');
  const search = new URLSearchParams(given.map(([name, value]) => [name, String(value)]));
  return json<SessionListPage>((all) => all.sessionListResponse, `/api/sessions?${search.toString()}`);
}

/**
 * @param name left out, it gets one that is free
 * @param contents what the session begins with; with an id it is made once, however often it is asked for
 */
export function createSession(
  name: string | undefined,
  contents: { id?: string; document?: SessionDocument; history?: History; isNameFreed?: boolean } = {},
): Promise<StoredSession> {
  return json<StoredSession>((all) => all.storedSessionResponse, '/api/sessions', 'POST', {
    ...(name ? { name } : {}),
    ...contents,
  });
}

export function saveSession(id: string, body: SaveSessionRequest): Promise<SavedResponse> {
  const path = `/api/sessions/${encodeURIComponent(id)}`;
  return json<SavedResponse>((all) => all.savedResponse, path, 'PUT', body, AbortSignal.timeout(SAVE_TIMEOUT_MS));
}

/** A fresh session from the demo. @returns its id */
export async function openDemo(): Promise<string> {
  return (await json<{ id: string }>((all) => all.sessionMadeResponse, '/api/demo', 'POST', {})).id;
}

/** Sounds of the demo, to be tried elsewhere. */
export async function listDemoSounds(): Promise<readonly Asset[]> {
  return (await json<{ assets: Asset[] }>((all) => all.soundListResponse, '/api/demo')).assets;
}

/** Renames a session, or puts it into the bin and takes it out. */
export async function changeSession(id: string, change: ChangeSessionRequest): Promise<void> {
  await request(`/api/sessions/${encodeURIComponent(id)}`, {
    method: 'PATCH',
    body: JSON.stringify(change),
    headers: { 'Content-Type': 'application/json' },
  });
}

/** Renders of a session on the studio's machines, the newest first. */
export function listRenders(sessionId: string): Promise<RenderList> {
  return json<RenderList>((all) => all.renderListResponse, `/api/renders?session=${encodeURIComponent(sessionId)}`);
}

/** Asks for a render; the same one is made once. */
export function orderRender(order: RenderOrder): Promise<Render> {
  return json<Render>((all) => all.renderResponse, '/api/renders', 'POST', order);
}

export function fetchRender(id: string): Promise<Render> {
  return json<Render>((all) => all.renderResponse, `/api/renders/${encodeURIComponent(id)}`);
}

/** The sound file that came out of a render. */
export async function fetchRenderResult(id: string): Promise<Blob> {
  return (await request(renderUrl(id))).blob();
}

/** Ends a render that waits or runs; removes one that has ended. */
export async function cancelRender(id: string): Promise<void> {
  await request(`/api/renders/${encodeURIComponent(id)}`, { method: 'DELETE' });
}

/** Address of the sound file that came out of a render. */
export const renderUrl = (id: string) => `/api/renders/${encodeURIComponent(id)}/result`;

/** Takes a session away for good. */
export async function removeSession(id: string): Promise<void> {
  await request(`/api/sessions/${encodeURIComponent(id)}`, { method: 'DELETE' });
}

/**
 * The bytes of a sound.
 * @throws KinetikonError asset.damaged when not all of them came, which is also how the server ends what it holds in part
 */
export async function fetchAsset({ id, name }: Pick<Asset, 'id' | 'name'>): Promise<ArrayBuffer> {
  const response = await request(`/api/assets/${id}`);
  const length = Number(response.headers.get('X-Bytes'));
  const damaged = (cause?: unknown) =>
    new KinetikonError('asset.damaged', `The sound ${name} did not arrive whole.`, {
      kept: 'The session is unchanged; its clips of this sound are silent.',
      next: 'Press play to try again, or bring the same file in once more.',
      cause,
    });
  let bytes: ArrayBuffer;
  try {
    bytes = await response.arrayBuffer();
  } catch (error) {
    throw damaged(error);
  }
  if (bytes.byteLength !== length) throw damaged();
  return bytes;
}

/** Pairs of lowest and highest sample of every 256 frames. */
export async function fetchPeaks(id: string): Promise<Int8Array> {
  return new Int8Array(await (await request(`/api/assets/${id}/peaks`)).arrayBuffer());
}

/** Sends a sound file, telling how much has gone out. */
export function uploadAsset(file: File, onProgress: (done: number) => void, signal: AbortSignal): Promise<Asset> {
  return new Promise((resolve, reject) => {
    // The only browser interface that tells the progress of an upload.
    const upload = new XMLHttpRequest();
    upload.open('POST', '/api/assets');
    upload.setRequestHeader('x-file-name', encodeURIComponent(file.name));
    upload.responseType = 'json';
    upload.upload.onprogress = (event) => onProgress(event.lengthComputable ? event.loaded / event.total : 0);
    upload.onerror = () => reject(unreachable(null));
    upload.onabort = () => reject(cancelled('Nothing was brought in.'));
    upload.onload = () => {
      const body: unknown = upload.response;
      if (upload.status === 201) {
        schemas()
          .then((all) => all.assetResponse.validate(body))
          .then(({ asset }) => resolve(asset), reject);
      } else {
        void errorOf(upload.status, body).then(reject);
      }
    };
    signal.addEventListener('abort', () => upload.abort());
    upload.send(file);
  });
}

/** Sounds that nothing has used for a while. */
export async function listUnused(): Promise<readonly UnusedAsset[]> {
  return (await json<{ unused: UnusedAsset[] }>((all) => all.unusedAssetsResponse, '/api/assets/unused')).unused;
}

/** Removes them for good; answers with what went. */
export async function sweepUnused(): Promise<readonly UnusedAsset[]> {
  return (await json<{ unused: UnusedAsset[] }>((all) => all.unusedAssetsResponse, '/api/assets/unused', 'DELETE'))
    .unused;
}

export async function listPresets(): Promise<PresetList> {
  return json<PresetList>((all) => all.presetListResponse, '/api/presets');
}

export async function savePreset(preset: PresetFile): Promise<StoredPreset> {
  return json<StoredPreset>((all) => all.storedPresetResponse, '/api/presets', 'POST', preset);
}

export async function removePreset(id: string): Promise<void> {
  await request(`/api/presets/${encodeURIComponent(id)}`, { method: 'DELETE' });
}

export async function setFavourite(id: string, on: boolean): Promise<void> {
  await request('/api/presets/favourites', {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ id, on }),
  });
}
