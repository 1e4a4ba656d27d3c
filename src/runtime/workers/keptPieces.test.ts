import { noiseFile } from '../../../test/support/bytes';
import { StandInFolder, standInLocks } from '../../../test/support/privateFiles';
import { bytesOf, type FileBytes } from '@/core/formats/fileBytes';
import { SeededRandom } from '@/core/math/random';
import { keptPieces } from './keptPieces';
import { PIECE_BYTES } from './privateFiles';

/** Three pieces and a bit. */
const bytes = noiseFile(1, 275_000);
const PIECES = Math.ceil(bytes.length / PIECE_BYTES);
/** Two sounds of so many pieces come to a little more than 2 GiB. */
const EACH = 4400;
const before = globalThis.navigator;

let folder: StandInFolder;
let asked: (readonly [number, number])[] = [];
let refusals = 0;
const server: FileBytes = {
  size: bytes.length,
  read: (from, to) => {
    asked.push([from, to]);
    return bytesOf(bytes).read(from, to);
  },
};
const open = (id = 'a', file = server) => keptPieces(id, file, () => refusals++);
/** Compared as a whole: element by element takes seconds. */
const isSame = (read: Uint8Array, from: number, to: number) => Buffer.compare(read, bytes.subarray(from, to)) === 0;
/** Lets what is written come to its end. */
const settle = () => new Promise((resolve) => setTimeout(resolve, 30));
const pieces = (id = 'a') => [...folder.files.keys()].filter((name) => name.startsWith(`${id}.`) && /\d$/.test(name));

beforeEach(() => {
  folder = new StandInFolder();
  asked = [];
  refusals = 0;
  const navigator = { locks: standInLocks(), storage: { getDirectory: async () => folder } };
  Object.defineProperty(globalThis, 'navigator', { value: navigator, configurable: true, writable: true });
});
afterAll(() => Object.defineProperty(globalThis, 'navigator', { value: before, configurable: true, writable: true }));

describe('pieces of a file that the browser keeps', () => {
  it('are the very bytes, in any order and past the end, and each is asked for once', async () => {
    const random = new SeededRandom(7);
    const file = await open();
    for (let n = 0; n < 60; n++) {
      const from = Math.floor(random.uniform() * bytes.length);
      const to = from + Math.floor(random.uniform() * 1.5 * PIECE_BYTES);
      expect(isSame(await file.read(from, to), from, to)).toBe(true);
    }
    expect(await file.read(bytes.length, bytes.length + 9)).toHaveLength(0);
    await settle();
    expect(asked.length).toBe(PIECES);
    const later = await open();
    expect(isSame(await later.read(0, bytes.length), 0, bytes.length)).toBe(true);
    expect(asked.length).toBe(PIECES);
    expect(refusals).toBe(0);
  });

  it('are asked for once by two that read at the same time', async () => {
    const file = await open();
    await Promise.all([file.read(0, 9), file.read(5, 20), file.read(PIECE_BYTES - 3, PIECE_BYTES + 3)]);
    expect(asked.length).toBe(2);
  });

  it('are asked for again where they were broken off or removed, while they are read too', async () => {
    const file = await open();
    await file.read(0, bytes.length);
    await settle();
    folder.files.get('a.0')!.bytes = new Uint8Array(70);
    await folder.removeEntry('a.1');
    folder.files.get('a.2')!.isGone = true;
    asked = [];
    expect(isSame(await file.read(0, bytes.length), 0, bytes.length)).toBe(true);
    expect(asked.map(([from]) => from / PIECE_BYTES)).toEqual([0, 1, 2]);
  });

  it('are not kept where there is no room, and no more than is needed is asked for then', async () => {
    // The mark alone.
    folder.room = 0;
    const file = await open();
    await file.read(0, 9);
    await settle();
    expect(refusals).toBe(1);
    expect(pieces()).toEqual([]);
    asked = [];
    expect(await file.read(PIECE_BYTES + 7, PIECE_BYTES + 12)).toEqual(
      bytes.subarray(PIECE_BYTES + 7, PIECE_BYTES + 12),
    );
    expect(asked).toEqual([[PIECE_BYTES + 7, PIECE_BYTES + 12]]);
    Object.assign(navigator, { locks: undefined });
    expect(await open()).toBe(server);
    expect(refusals).toBe(2);
  });

  it('errors as the server does, and asks again the next time', async () => {
    let fails = true;
    const file = await open('a', {
      size: server.size,
      read: (from, to) => (fails ? Promise.reject(new Error('unplugged')) : server.read(from, to)),
    });
    await expect(file.read(0, 5)).rejects.toThrow('unplugged');
    fails = false;
    expect(await file.read(0, 5)).toEqual(bytes.subarray(0, 5));
  });

  it('leave when there are more than 2 GiB: of the sound that was opened first, no more than need to', async () => {
    for (const id of ['old', 'new']) {
      await open(id);
      for (let n = 0; n < EACH; n++) await folder.getFileHandle(`${id}.${1000 + n}`, { create: true });
    }
    const file = await open();
    // One in 256 that are written looks.
    for (let n = 0; n < 256; n++) {
      await file.read(0, 9);
      await new Promise((resolve) => setTimeout(resolve, 1));
      await folder.removeEntry('a.0').catch(() => undefined);
    }
    expect(pieces('new').length).toBe(EACH);
    expect(pieces('old').length).toBeLessThan(EACH);
    expect(pieces('old').length).toBeGreaterThanOrEqual((2 * 1024 ** 3) / PIECE_BYTES - EACH - 2);
  });
});
