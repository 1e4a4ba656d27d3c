import type { StoredSession } from '@/core/protocol/http';
import { applyCommand } from '@/core/session/commands';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import { newClip, newDocument } from '@/core/session/records/factories';
import type * as Opening from './prefetch';

const ids = ['a', 'b', 'c'].map((letter) => letter.repeat(64));

/** A session whose three sounds begin a bar after one another, the last one first. */
function stored(): StoredSession {
  const { document } = applyCommand(
    newDocument('x'),
    {
      type: 'all',
      commands: [
        { type: 'track.add', id: 't', name: 't' },
        ...ids.flatMap((id, n) => [
          {
            type: 'asset.add' as const,
            asset: { id, name: `${id[0]!}.wav`, frames: 48000, sampleRateHz: 48000, channels: 1 },
          },
          {
            type: 'clip.add' as const,
            clip: newClip({
              id: `clip-${n}`,
              trackId: 't',
              source: { kind: 'sound', assetId: id },
              name: id[0]!,
              startBeat: 4 * (2 - n),
              lengthSeconds: 1,
            }),
          },
        ]),
      ],
    },
    '',
  );
  return { id: 'one', revision: 1, saveId: null, document, history: EMPTY_HISTORY };
}

const loadSession = jest.fn<Promise<StoredSession>, [string]>();
const fetchAsset = jest.fn<Promise<ArrayBuffer>, [{ id: string }]>();
const prepareDecoders = jest.fn();
jest.mock('@/runtime/client/api', () => ({
  fetchAsset: (asset: { id: string }) => fetchAsset(asset),
}));
jest.mock('@/runtime/client/storedSessions', () => ({ loadSession: (id: string) => loadSession(id) }));
jest.mock('@/runtime/client/decoders', () => ({ prepareDecoders: () => prepareDecoders() as void }));

describe('opening a session', () => {
  let opening: typeof Opening;
  beforeEach(async () => {
    jest.resetModules();
    jest.resetAllMocks();
    fetchAsset.mockResolvedValue(new ArrayBuffer(0));
    opening = await import('./prefetch');
  });

  it('takes what has been fetched ahead, with the sounds that are played first, once', async () => {
    loadSession.mockImplementation(() => Promise.resolve(stored()));
    opening.fetchAhead('one');
    expect(prepareDecoders).toHaveBeenCalledTimes(1);
    const opened = await opening.openSession('one');
    expect(opened.id).toBe('one');
    expect(loadSession).toHaveBeenCalledTimes(1);
    await Promise.resolve();
    expect(fetchAsset.mock.calls.map(([{ id }]) => id)).toEqual([ids[2], ids[1]]);
    await opening.openSession('one');
    expect(loadSession).toHaveBeenCalledTimes(2);
  });

  it('fetches no long sound as a whole', async () => {
    const one = stored();
    const long = Object.entries(one.document.assets).map(([id, asset]) => [id, { ...asset, frames: 48000 * 61 }]);
    loadSession.mockResolvedValue({ ...one, document: { ...one.document, assets: Object.fromEntries(long) } });
    opening.fetchAhead('one');
    await opening.openSession('one');
    await Promise.resolve();
    expect(fetchAsset).not.toHaveBeenCalled();
  });

  it('asks for another session than the one that was fetched ahead, which is out of date by then', async () => {
    loadSession.mockImplementation((id) => Promise.resolve({ ...stored(), id }));
    opening.fetchAhead('one');
    expect((await opening.openSession('two')).id).toBe('two');
    expect((await opening.openSession('one')).id).toBe('one');
    expect(loadSession.mock.calls.map(([id]) => id)).toEqual(['one', 'two', 'one']);
  });

  it('asks again when fetching ahead failed, and tells what happens then', async () => {
    loadSession.mockRejectedValueOnce(new Error('no server'));
    loadSession.mockResolvedValueOnce(stored());
    opening.fetchAhead('one');
    expect((await opening.openSession('one')).id).toBe('one');
    loadSession.mockRejectedValue(new Error('still none'));
    opening.fetchAhead('one');
    await expect(opening.openSession('one')).rejects.toThrow('still none');
  });
});
