import { readFileSync } from 'node:fs';
import { StandInFolder, standInLocks } from '../../../test/support/privateFiles';
import { bytesOf, type FileBytes } from '@/core/formats/fileBytes';
import { readSound } from '@/core/formats/readSound';
import { openUnrolled } from './unrolledFiles';

const NAME = 'stereo.ogg';
const bytes = new Uint8Array(readFileSync(`test/fixtures/sounds/${NAME}`));
const GIB = 1024 ** 3;

let folder: StandInFolder;
let read = 0;
const source = (of = bytes): FileBytes => ({
  size: of.length,
  read: (from, to) => {
    read += to - from;
    return bytesOf(of).read(from, to);
  },
});
const open = (id: string, of = bytes) => openUnrolled(id, source(of), NAME, () => {});
const before = globalThis.navigator;

beforeEach(() => {
  folder = new StandInFolder();
  read = 0;
  const navigator = { locks: standInLocks(), storage: { getDirectory: async () => folder } };
  Object.defineProperty(globalThis, 'navigator', { value: navigator, configurable: true, writable: true });
});
afterAll(() => Object.defineProperty(globalThis, 'navigator', { value: before, configurable: true, writable: true }));

describe('an unrolled sound of the browser', () => {
  it('is unrolled once, by two that want it at the same time too, and is the same samples', async () => {
    const [first, second] = await Promise.all([open('a'), open('a')]);
    const once = read;
    const whole = await readSound(bytes, NAME);
    for (const sound of [first!, second!]) {
      expect(sound.frames).toBe(whole.channels[0]!.length);
      expect(await sound.read(0, sound.frames)).toEqual(whole.channels);
      sound.free();
    }
    const again = (await open('a'))!;
    expect(await again.read(7, 20)).toEqual(whole.channels.map((channel) => channel.slice(7, 20)));
    expect(read).toBe(once);
    expect(once).toBeLessThan(1.1 * bytes.length);
  });

  it('is not to be had where there are no private files, no locks, or no room; nothing is left then', async () => {
    folder.room = 1;
    expect(await open('a')).toBeNull();
    expect([...folder.files.keys()]).toEqual([]);
    Object.assign(navigator, { storage: { getDirectory: () => Promise.reject(new Error('refused')) } });
    expect(await open('a')).toBeNull();
    Object.assign(navigator, { locks: undefined });
    expect(await open('a')).toBeNull();
  });

  it('that is damaged is named, and tried again the next time', async () => {
    await expect(open('a', bytes.slice(0, 9000))).rejects.toMatchObject({ code: 'file.broken' });
    expect([...folder.files.keys()]).toEqual([]);
    expect(await open('a')).not.toBeNull();
  });

  it('begun by a page that was closed is begun anew', async () => {
    await folder.getFileHandle('a', { create: true });
    expect((await open('a'))!.frames).toBeGreaterThan(0);
  });

  it('leaves when there are more than 2 GiB, the one that was not used for longest first, and none that is in use', async () => {
    for (const id of ['a', 'b', 'c']) (await open(id))!.free();
    const inUse = (await open('b'))!;
    (await open('a'))!.free();
    for (const id of ['a', 'b', 'c']) folder.files.get(id)!.size = 0.7 * GIB;
    const kept = () => [...folder.files.keys()].filter((name) => !name.includes('.')).sort();
    (await open('d'))!.free();
    expect(kept()).toEqual(['a', 'b', 'd']);
    folder.files.get('d')!.size = 0.7 * GIB;
    (await open('e'))!.free();
    // The second is in use.
    expect(kept()).toEqual(['b', 'd', 'e']);
    expect([...folder.files.keys()].filter((name) => name.includes('.')).sort()).toEqual([
      'b.used',
      'd.used',
      'e.used',
    ]);
    inUse.free();
  });
});
