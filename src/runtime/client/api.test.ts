import { fetchAsset } from './api';

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
