import { randomBytes, randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { openOwn } from '../../../test/support/database';
import { ObjectStore } from '../../../test/support/objectStore';
import { sine } from '../../../test/support/render';
import { writeWav } from '@/core/formats/wav';
import type { BlobHome } from '../blobs/blobHome';
import { blobHome } from '../blobs/blobs';
import { gathered, inPieces, PIECE_BYTES } from '../blobs/pieces';
import type { Database, OpenDatabase } from '../db/database';
import { assets, blobPieces } from '../db/schema';
import { readAsset, storeAsset } from './assets';

const DAY_MS = 24 * 3600 * 1000;
const store = new ObjectStore('sounds');
const folder = mkdtempSync(join(tmpdir(), 'kinetikon-blobs-'));
let open: OpenDatabase;

beforeAll(async () => {
  await store.start();
  open = await openOwn();
});

afterAll(async () => {
  await open.close();
  await store.stop();
  rmSync(folder, { recursive: true });
});

async function write(home: BlobHome, id: string, bytes: Buffer, last: 'finish' | 'abandon' | 'nothing' = 'finish') {
  const writer = await home.write(id);
  for await (const piece of inPieces([bytes] as unknown as AsyncIterable<Uint8Array>)) await writer.append(piece);
  if (last !== 'nothing') await writer[last]();
}

const SETTINGS = { 'rows of the database': 'rows', 'a folder': folder, 'an object store': 's3://sounds' };

describe.each(Object.entries(SETTINGS))('blobs in %s', (_, setting) => {
  let home: BlobHome;
  beforeAll(() => {
    home = blobHome(open.db, setting);
  });

  it('come back whole and in part, whatever their size', async () => {
    for (const size of [1, PIECE_BYTES, 3 * PIECE_BYTES + 77, 19 * PIECE_BYTES + 5]) {
      const bytes = randomBytes(size);
      const id = randomUUID();
      await write(home, id, bytes);
      expect(await home.size(id)).toBe(size);
      expect(Buffer.compare(await gathered(home.read(id, 0, size)), bytes)).toBe(0);
      const [from, to] = [Math.floor(size / 2 / PIECE_BYTES) * PIECE_BYTES, Math.ceil(size * 0.9)];
      expect(Buffer.compare(await gathered(home.read(id, from, to)), bytes.subarray(from, to))).toBe(0);
      await home.remove([id, randomUUID()]);
      expect([await home.size(id), (await gathered(home.read(id, 0, size))).length]).toEqual([null, 0]);
    }
  });

  it('are not there after a writer gave up', async () => {
    const id = randomUUID();
    await write(home, id, randomBytes(17 * PIECE_BYTES), 'abandon');
    expect(await home.size(id)).toBeNull();
    expect(store.unfinished.size).toBe(0);
    expect(await home.works()).toBe(true);
  });

  it('hold sounds: piece by piece, each checked, refused where one has changed', async () => {
    const before = process.env.KINETIKON_BLOBS;
    process.env.KINETIKON_BLOBS = setting;
    // A home belongs to a database object: this one is asked for the first time.
    const db = new Proxy(open.db, {}) as Database;
    try {
      const bytes = writeWav({ sampleRateHz: 48000, channels: [sine(180 + setting.length, 48000, 900000)] }, '24');
      async function* body() {
        for (let at = 0; at < bytes.length; at += 99999) yield bytes.subarray(at, at + 99999);
      }
      const { id } = await storeAsset(db, 'held.wav', body());
      expect(Buffer.compare(await gathered(readAsset(db, id)), bytes)).toBe(0);
      const [from, to] = [PIECE_BYTES - 3, 2 * PIECE_BYTES + 5];
      expect(Buffer.compare(await gathered(readAsset(db, id, from, to)), bytes.subarray(from, to))).toBe(0);
      expect((await gathered(readAsset(db, id, 7, 8)))[0]).toBe(bytes[7]);
      const [row] = await db.select().from(assets).where(eq(assets.id, id));
      await db.update(blobPieces).set({ sum: 'x' }).where(eq(blobPieces.piece, 1));
      await expect(gathered(readAsset(db, id))).rejects.toThrow('The sound held.wav is damaged: piece 2 has changed');
      expect((await gathered(readAsset(db, id, 0, 100))).length).toBe(100);
      await home.remove([row!.uploadId]);
      await expect(gathered(readAsset(db, id))).rejects.toThrow('piece 1 is missing');
      // Brought in again, it is whole.
      await storeAsset(db, 'held.wav', body());
      expect(Buffer.compare(await gathered(readAsset(db, id)), bytes)).toBe(0);
    } finally {
      if (before === undefined) delete process.env.KINETIKON_BLOBS;
      else process.env.KINETIKON_BLOBS = before;
    }
  });
});

describe('what a killed writer leaves', () => {
  it('in a folder is swept once it is old, and never what is written', async () => {
    const home = blobHome(open.db, folder);
    const [old, young, kept] = [randomUUID(), randomUUID(), randomUUID()];
    for (const id of [old, young]) await write(home, id, randomBytes(5), 'nothing');
    await write(home, kept, randomBytes(5));
    const path = (id: string) => join(folder, id.slice(0, 2), id);
    utimesSync(`${path(old)}.part`, 0, 0);
    utimesSync(path(kept), 0, 0);
    writeFileSync(join(folder, 'README'), 'of the operator');
    await home.sweep(DAY_MS);
    expect([existsSync(`${path(old)}.part`), existsSync(`${path(young)}.part`), existsSync(path(kept))]).toEqual([
      false,
      true,
      true,
    ]);
    expect(readdirSync(folder)).toContain('README');
  });

  it('in an object store is swept once it is old', async () => {
    const home = blobHome(open.db, 's3://sounds');
    await write(home, randomUUID(), randomBytes(9 * PIECE_BYTES), 'nothing');
    expect(store.unfinished.size).toBe(1);
    await home.sweep(DAY_MS);
    expect(store.unfinished.size).toBe(1);
    await new Promise((resolve) => setTimeout(resolve, 5));
    await home.sweep(0);
    expect(store.unfinished.size).toBe(0);
  });
});

describe('the home of blobs', () => {
  it('waits for an object store that is busy, and says when there is none', async () => {
    const home = blobHome(open.db, 's3://sounds');
    store.busyFor = 2;
    const id = randomUUID();
    await write(home, id, randomBytes(10));
    expect(await home.size(id)).toBe(10);
    expect(await blobHome(open.db, 's3://elsewhere').works()).toBe(false);
  });

  it('is refused by name when the setting names none', () => {
    for (const setting of ['data', 's3://', 's3://A', 'http://x']) {
      expect(() => blobHome(open.db, setting)).toThrow(`not "${setting}"`);
    }
    const key = process.env.AWS_ACCESS_KEY_ID;
    delete process.env.AWS_ACCESS_KEY_ID;
    expect(() => blobHome(open.db, 's3://sounds')).toThrow('needs AWS_ACCESS_KEY_ID');
    process.env.AWS_ACCESS_KEY_ID = key;
  });
});
