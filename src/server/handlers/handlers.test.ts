import { randomUUID } from 'node:crypto';
import { HOME, ownHome } from '../../../test/support/database';
import { ask, saveOf } from '../../../test/support/requests';
import { sine } from '../../../test/support/render';
import { MAXIMUM_SESSION_BYTES, type SessionListPage } from '@/core/protocol/http';
import { writeWav } from '@/core/formats/wav';
import type { SessionDocument } from '@/core/session/records/document';
import { newDocument } from '@/core/session/records/factories';
import { closeDatabase, database } from '../db/client';
import { queueOf } from '../renders/renderQueue';
import { foldAllChanges } from '../repositories/sessionDocuments';
import { downloadAsset, uploadAsset } from './assets';
import { health, showMetrics } from './operation';
import { createPreset, listPresets, setFavourite } from './presets';
import { changeSession, createSession, listSessions, loadSession, removeSession, saveSession } from './sessions';

let remove: () => Promise<void>;

beforeAll(async () => {
  remove = await ownHome();
});

afterAll(async () => {
  await foldAllChanges(await database());
  await closeDatabase();
  await remove();
});

/** Status and, of a refusal, the code and the sentence. */
async function outcomeOf(answer: Response): Promise<{ status: number; code?: string; message?: string }> {
  if (answer.status < 400) return { status: answer.status };
  const { error } = (await answer.json()) as { error: { code: string; message: string } };
  return { status: answer.status, code: error.code, message: error.message };
}

async function stored(id: string): Promise<{ revision: number; document: SessionDocument }> {
  return (await (await loadSession(ask('GET'), id)).json()) as { revision: number; document: SessionDocument };
}

async function newSession(name: string): Promise<string> {
  return ((await (await createSession(ask('POST', { name }))).json()) as { id: string }).id;
}

/** Documents with one thing wrong, by what it is. */
const INVALID: Record<string, (document: SessionDocument) => unknown> = {
  'a tempo out of range': (one) => ({ ...one, session: { ...one.session, tempoBpm: 3000 } }),
  'a track that is not there': (one) => ({ ...one, session: { ...one.session, trackIds: ['ghost'] } }),
  'a field of no record': (one) => ({ ...one, main: { ...one.main, colour: 'red' } }),
  'a version to come': (one) => ({ ...one, version: 999 }),
  'no document at all': () => 'a session',
};

describe('the handler of sessions', () => {
  it.each(Object.keys(INVALID))('stores nothing of a new session with %s', async (what) => {
    const before = await (await listSessions(ask('GET'))).json();
    const answer = await outcomeOf(
      await createSession(ask('POST', { name: 'Bad', document: INVALID[what]!(newDocument('Bad')) })),
    );
    expect(answer.status).toBe(422);
    expect(answer.message).toMatch(/\.$/);
    expect(await (await listSessions(ask('GET'))).json()).toEqual(before);
  });

  it.each(Object.keys(INVALID))('leaves a session as it was when a save brings %s', async (what) => {
    const id = await newSession('Kept');
    const before = await stored(id);
    const save = { ...saveOf(before.revision, before.document), document: INVALID[what]!(before.document) };
    expect((await outcomeOf(await saveSession(ask('PUT', save), id))).status).toBe(422);
    expect(await stored(id)).toEqual(before);
  });

  it('refuses a save over a revision that it has not seen, and keeps the one that came first', async () => {
    const id = await newSession('Two windows');
    const { revision, document } = await stored(id);
    const named = (name: string) => ({ ...document, session: { ...document.session, name } });
    expect((await outcomeOf(await saveSession(ask('PUT', saveOf(revision, named('First'))), id))).status).toBe(200);
    const late = await outcomeOf(await saveSession(ask('PUT', saveOf(revision, named('Second'))), id));
    expect([late.status, late.code]).toEqual([409, 'session.conflict']);
    expect((await stored(id)).document.session.name).toBe('First');
  });

  it('says that a session is not there, whatever is asked of it', async () => {
    const id = randomUUID();
    const save = saveOf(1, newDocument('Ghost'));
    const answers = [
      await loadSession(ask('GET'), id),
      await saveSession(ask('PUT', save), id),
      await changeSession(ask('PATCH', { name: 'Ghost' }), id),
      await removeSession(ask('DELETE'), id),
    ];
    for (const answer of answers)
      expect(await outcomeOf(answer)).toMatchObject({ status: 404, code: 'session.missing' });
  });

  it('refuses a body that is too large before it reads all of it', async () => {
    let sent = 0;
    const endless = new ReadableStream<Uint8Array>({
      pull(controller) {
        sent += 1 << 20;
        controller.enqueue(new Uint8Array(1 << 20).fill(32));
      },
    });
    const init = { method: 'POST', headers: { host: '127.0.0.1' }, body: endless, duplex: 'half' };
    const request = new Request('http://127.0.0.1/api', init as RequestInit);
    expect((await outcomeOf(await createSession(request))).status).toBe(413);
    expect(sent).toBeLessThan(MAXIMUM_SESSION_BYTES + (8 << 20));
  });
});

describe('the handler of the list of sessions', () => {
  const page = async (query: string) =>
    (await (await listSessions(ask('GET', undefined, {}, query))).json()) as SessionListPage;
  const namesOf = ({ sessions }: SessionListPage) => sessions.map(({ name }) => name);

  it('gives them page by page, in any order, without one left out or twice', async () => {
    const wanted = Array.from({ length: 23 }, (_, n) => `Paged ${String.fromCharCode(97 + ((n * 7) % 23))}`);
    for (const name of wanted) await newSession(name);
    for (const [order, expected] of [
      ['changed', wanted.toReversed()],
      ['name', wanted.toSorted()],
      ['length', null],
    ] as const) {
      const found: string[] = [];
      let after = '';
      do {
        const one = await page(`?search=paged&limit=5&order=${order}${after}`);
        found.push(...namesOf(one));
        after = one.next === null ? '' : `&after=${one.next}`;
      } while (after !== '');
      expect(expected ?? found.toSorted()).toEqual(expected ? found : wanted.toSorted());
    }
  });

  it('finds a part of a name in capitals or not, and what is in the bin by itself', async () => {
    const id = await newSession('Überfahrt 100%_');
    for (const search of ['überFAHRT', '100%25_', '%25'])
      expect(namesOf(await page(`?search=${search}`))).toContain('Überfahrt 100%_');
    expect(namesOf(await page('?search=1001'))).toEqual([]);
    const before = await page('');
    await changeSession(ask('PATCH', { binned: true }), id);
    const after = await page('');
    expect([after.kept, after.binned]).toEqual([before.kept - 1, before.binned + 1]);
    expect(namesOf(await page('?binned=true'))).toContain('Überfahrt 100%_');
  });

  it.each([
    'limit=0',
    'limit=1000',
    'order=size',
    'after=x',
    `after=${Buffer.from('["2026","x"]').toString('base64url')}`,
    'search=%00',
  ])('refuses %s', async (query) =>
    expect((await outcomeOf(await listSessions(ask('GET', undefined, {}, `?${query}`)))).status).toBe(422),
  );
});

describe('the handler of sounds', () => {
  const wav = writeWav({ sampleRateHz: 48000, channels: [sine(300, 48000, 4800)] }, '24');
  const upload = (bytes: Uint8Array, name: string) =>
    uploadAsset(ask('POST', bytes, { 'x-file-name': encodeURIComponent(name) }));

  it('gives back the bytes that came in', async () => {
    const answer = await upload(wav, 'tone.wav');
    expect(answer.status).toBe(201);
    const { asset } = (await answer.json()) as { asset: { id: string; frames: number } };
    expect(asset.frames).toBe(4800);
    const back = await downloadAsset(ask('GET'), asset.id);
    expect(Buffer.compare(new Uint8Array(await back.arrayBuffer()), wav)).toBe(0);
  });

  it('gives the range that is asked for, says when there is none, and nothing where the asker has it', async () => {
    const { asset } = (await (await upload(wav, 'tone.wav')).json()) as { asset: { id: string } };
    const get = (headers: Record<string, string>) => downloadAsset(ask('GET', undefined, headers), asset.id);
    const part = await get({ range: 'bytes=100-299' });
    expect([part.status, part.headers.get('Content-Range'), part.headers.get('X-Bytes')]).toEqual([
      206,
      `bytes 100-299/${wav.length}`,
      '200',
    ]);
    expect(Buffer.compare(new Uint8Array(await part.arrayBuffer()), wav.subarray(100, 300))).toBe(0);
    const beyond = await get({ range: `bytes=${wav.length}-` });
    expect([beyond.status, beyond.headers.get('Content-Range')]).toEqual([416, `bytes */${wav.length}`]);
    const tag = part.headers.get('ETag')!;
    expect((await get({ 'if-none-match': tag })).status).toBe(304);
    expect((await get({ range: 'bytes=0-9', 'if-range': tag })).status).toBe(206);
    expect((await get({ range: 'bytes=0-9', 'if-range': '"another"' })).status).toBe(200);
  });

  it('refuses what is no sound, what breaks off, and what has no name', async () => {
    const noise = await outcomeOf(await upload(new TextEncoder().encode('not a sound at all'), 'notes.mp3'));
    expect(noise.status).toBe(422);
    expect(noise.message).toContain('notes.mp3');
    expect((await outcomeOf(await upload(wav.subarray(0, 20), 'cut.wav'))).status).toBe(422);
    expect((await outcomeOf(await uploadAsset(ask('POST', wav)))).message).toContain('x-file-name');
    expect((await outcomeOf(await downloadAsset(ask('GET'), 'f'.repeat(64)))).status).toBe(404);
  });
});

describe('what an operator asks', () => {
  it('says that all parts work, and by which versions', async () => {
    const answer = await health(ask('GET', undefined, { 'x-request-id': 'asked-1' }));
    expect([answer.status, answer.headers.get('X-Request-Id')]).toEqual([200, 'asked-1']);
    expect(await answer.json()).toMatchObject({
      works: true,
      versions: { engine: expect.any(Number), document: expect.any(Number) },
      database: { home: HOME, works: true },
      blobs: { home: 'rows of the database', works: true },
      queue: { home: HOME === 'server' ? 'workers' : 'this server', works: true, workers: HOME === 'server' ? 0 : 1 },
    });
  });

  it('says which part does not work, and why', async () => {
    const queue = queueOf(await database());
    const works = jest.spyOn(queue, 'works').mockRejectedValue(new Error('the queue is gone'));
    const answer = await health(ask('GET'));
    works.mockRestore();
    expect(answer.status).toBe(503);
    expect(await answer.json()).toMatchObject({ works: false, queue: { works: false, reason: 'the queue is gone' } });
  });

  it('counts requests by route, without the ids in it', async () => {
    await loadSession(ask('GET', undefined, {}, `/sessions/${randomUUID()}`), randomUUID());
    const text = await (await showMetrics(ask('GET'))).text();
    expect(text).toMatch(/kinetikon_request_seconds_count\{method="GET",route="\/api\/sessions\/:id",status="404"\} 1/);
    expect(text).toContain('kinetikon_renders{state="waiting"} 0');
    expect(text).toMatch(/nodejs_eventloop_lag_seconds /);
  });
});

describe('the handler of presets', () => {
  it('refuses values out of range by name, and stores none of them', async () => {
    const list = async () => (await (await listPresets(ask('GET'))).json()) as unknown;
    const before = await list();
    const effects = [{ effect: 'delay', bypass: false, values: { mix: 140 } }];
    const preset = { format: 'kinetikon.preset', version: 1, kind: 'effect', name: 'Loud', tags: [], effects };
    const answer = await outcomeOf(await createPreset(ask('POST', preset)));
    expect([answer.status, answer.message]).toEqual([422, expect.stringContaining('mix takes 0 % to 100 %')]);
    expect(await list()).toEqual(before);
    expect((await outcomeOf(await setFavourite(ask('PUT', { effect: 7 })))).status).toBeGreaterThanOrEqual(400);
  });
});
