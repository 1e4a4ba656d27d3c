import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ask, saveOf } from '../../../test/support/requests';
import { sine } from '../../../test/support/render';
import { MAXIMUM_SESSION_BYTES } from '@/core/protocol/http';
import { writeWav } from '@/core/formats/wav';
import type { SessionDocument } from '@/core/session/records/document';
import { newDocument } from '@/core/session/records/factories';
import { closeDatabase, database } from '../db/client';
import { foldAllChanges } from '../repositories/sessionDocuments';
import { downloadAsset, uploadAsset } from './assets';
import { createPreset, listPresets, setFavourite } from './presets';
import { changeSession, createSession, listSessions, loadSession, removeSession, saveSession } from './sessions';

const folder = mkdtempSync(join(tmpdir(), 'kinetikon-handlers-'));

beforeAll(() => {
  jest.spyOn(console, 'log').mockImplementation(() => {});
  process.env.KINETIKON_DATA = folder;
});

afterAll(async () => {
  await foldAllChanges(await database());
  await closeDatabase();
  rmSync(folder, { recursive: true });
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

  it('refuses what is no sound, what breaks off, and what has no name', async () => {
    const noise = await outcomeOf(await upload(new TextEncoder().encode('not a sound at all'), 'notes.mp3'));
    expect(noise.status).toBe(422);
    expect(noise.message).toContain('notes.mp3');
    expect((await outcomeOf(await upload(wav.subarray(0, 20), 'cut.wav'))).status).toBe(422);
    expect((await outcomeOf(await uploadAsset(ask('POST', wav)))).message).toContain('x-file-name');
    expect((await outcomeOf(await downloadAsset(ask('GET'), 'f'.repeat(64)))).status).toBe(404);
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
