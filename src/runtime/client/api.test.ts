import { fetchAsset, listSessions, saveSession } from './api';

const asset = { id: 'a'.repeat(64), name: 'low tide.wav' };

const answering = (body: BodyInit | null, bytes: number) =>
  jest.spyOn(globalThis, 'fetch').mockResolvedValue(new Response(body, { headers: { 'X-Bytes': String(bytes) } }));

describe('a sound from the server', () => {
  afterEach(() => jest.restoreAllMocks());

  it('is taken when all of it came', async () => {
    answering(new Uint8Array(10), 10);
    expect((await fetchAsset(asset)).byteLength).toBe(10);
  });

  it('is refused by its name when the answer is short', async () => {
    answering(new Uint8Array(9), 10);
    await expect(fetchAsset(asset)).rejects.toThrow('The sound low tide.wav did not arrive whole.');
  });

  it('is refused by its name when the answer breaks off', async () => {
    const torn = new ReadableStream({
      pull(controller) {
        controller.enqueue(new Uint8Array(5));
        controller.error(new Error('gone'));
      },
    });
    answering(torn, 10);
    await expect(fetchAsset(asset)).rejects.toMatchObject({ code: 'asset.damaged' });
  });
});

describe('an answer of the server', () => {
  afterEach(() => jest.restoreAllMocks());
  const answers = (body: unknown, status = 200) =>
    jest.spyOn(globalThis, 'fetch').mockResolvedValue(Response.json(body, { status }));
  const request = { revision: 1, saveId: 'a', unanswered: [] } as never;

  it('is refused when it is not what was asked for', async () => {
    answers({ sessions: [{ id: 7 }] });
    await expect(listSessions()).rejects.toMatchObject({ code: 'database.failed' });
    answers({ revision: 'two', freeBytes: null });
    await expect(saveSession('one', request)).rejects.toThrow('does not fit');
    answers({ revision: 2, freeBytes: null });
    expect(await saveSession('one', request)).toEqual({ revision: 2, freeBytes: null });
  });

  it('that refuses says why, by its own words where it has any', async () => {
    answers({ error: { code: 'session.missing', message: 'Gone.', kept: 'All.', next: 'Look.' } }, 404);
    await expect(listSessions()).rejects.toMatchObject({ code: 'session.missing', message: 'Gone.', kept: 'All.' });
    answers('teapot', 418);
    await expect(listSessions()).rejects.toThrow('The server answered 418.');
  });

  it('that does not come keeps the work in the browser', async () => {
    jest.spyOn(globalThis, 'fetch').mockRejectedValue(new TypeError('failed'));
    await expect(listSessions()).rejects.toMatchObject({
      code: 'database.failed',
      kept: 'Your work is kept in this browser.',
    });
  });
});
