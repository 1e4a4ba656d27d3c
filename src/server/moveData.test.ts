import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inParts } from '../../test/support/bytes';
import { fillFolder, HOME, newServerDatabase } from '../../test/support/database';
import { saveOf } from '../../test/support/requests';
import { sine } from '../../test/support/render';
import { writeWav } from '@/core/formats/wav';
import { applyCommand } from '@/core/session/commands';
import { newDocument } from '@/core/session/records/factories';
import { blobHome } from './blobs/blobs';
import { gathered } from './blobs/pieces';
import { openDatabase, type DatabaseHome } from './db/client';
import type { OpenDatabase } from './db/database';
import { moveData } from './moveData';
import { readAsset, storeAsset } from './repositories/assets';
import { createSession, loadSession, saveSession } from './repositories/sessions';

const ends: (() => Promise<void>)[] = [];

async function newFolder(): Promise<DatabaseHome> {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-move-'));
  await fillFolder(folder);
  ends.push(async () => rmSync(folder, { recursive: true }));
  return { folder };
}

async function newHome(): Promise<DatabaseHome> {
  if (HOME === 'folder') return newFolder();
  const { url, remove } = await newServerDatabase();
  ends.push(remove);
  return { url };
}

async function opened(home: DatabaseHome): Promise<OpenDatabase> {
  const open = await openDatabase(home);
  ends.push(open.close);
  return open;
}

afterEach(async () => {
  for (const end of ends.splice(0).reverse()) await end();
});

const tone = writeWav({ sampleRateHz: 48000, channels: [sine(330, 48000, 12000)] }, '24');

describe('moving all data', () => {
  it('into a data folder, and from there into a home like the first, loses nothing', async () => {
    const places = [];
    for (const home of [await newHome(), await newFolder(), await newHome()]) {
      const { db } = await opened(home);
      places.push({ db, blobs: blobHome(db, 'rows') });
    }
    const [first, between, last] = places as [(typeof places)[0], (typeof places)[0], (typeof places)[0]];
    const asset = await storeAsset(first.db, 'tone.wav', inParts(tone));
    const start = newDocument('Moved');
    const { id } = await createSession(first.db, start);
    const { document } = applyCommand(start, { type: 'asset.add', asset }, '');
    await saveSession(first.db, id, saveOf(1, document));
    const there = await moveData(first, between, () => {});
    expect(there.blobs).toBe(1);
    expect(await moveData(between, last, () => {})).toEqual(there);
    expect(await loadSession(last.db, id)).toEqual(await loadSession(first.db, id));
    expect(Buffer.compare(await gathered(readAsset(last.db, asset.id)), Buffer.from(tone))).toBe(0);
  });
});
