import { eq } from 'drizzle-orm';
import { inParts } from '../../../test/support/bytes';
import { HOME, openOwn } from '../../../test/support/database';
import { saveOf } from '../../../test/support/requests';
import { sine } from '../../../test/support/render';
import { isCode } from '../../../test/support/outcomes';
import type { PresetFile } from '@/core/formats/preset';
import { writeWav } from '@/core/formats/wav';
import { applyCommand } from '@/core/session/commands';
import { newDocument } from '@/core/session/records/factories';
import type { OpenDatabase } from '../db/database';
import { assetChunks, assets, soundUses, uploads } from '../db/schema';
import { findAsset, readAsset, storeAsset, sweepAssets, unusedAssets } from './assets';
import { sweepUploads } from './blobs';
import { createPreset, listPresets, removePreset, setFavourite } from './presets';
import { foldChanges } from './sessionDocuments';
import { changeSession, createSession, loadSession, removeSession, saveSession } from './sessions';
import { addUses } from './soundUses';

const MANY = 20;
const times = <T>(make: (n: number) => Promise<T>) =>
  Promise.allSettled(Array.from({ length: MANY }, (_, n) => make(n)));
const wav = (hz: number) => writeWav({ sampleRateHz: 48000, channels: [sine(hz, 48000, 4000)] }, '16');

let open: OpenDatabase;

beforeAll(async () => {
  open = await openOwn();
});

afterAll(() => open.close());

describe('at the same time', () => {
  it('one of many saves over a revision wins, and the others are told', async () => {
    const { id, document } = await createSession(open.db, newDocument('Rush'));
    const named = (n: number) => ({ ...document, session: { ...document.session, name: `Rush ${n}` } });
    const saves = await times((n) => saveSession(open.db, id, saveOf(1, named(n))));
    const won = saves.flatMap((one, n) => (one.status === 'fulfilled' ? [n] : []));
    expect(won).toHaveLength(1);
    expect(saves.filter(isCode('session.conflict'))).toHaveLength(MANY - 1);
    expect(await loadSession(open.db, id)).toMatchObject({ revision: 2, document: named(won[0]!) });
    await removeSession(open.db, id);
  });

  it('renames and folds leave one document, whose revision counts them all', async () => {
    const { id } = await createSession(open.db, newDocument('Names'));
    await times(async (n) => {
      await changeSession(open.db, id, { name: `Name ${n}` });
      if (n % 4 === 0) await foldChanges(open.db, id);
    });
    const { revision, document } = await loadSession(open.db, id);
    expect(revision).toBe(1 + MANY);
    await foldChanges(open.db, id);
    expect((await loadSession(open.db, id)).document).toEqual(document);
    await removeSession(open.db, id);
  });

  it('sessions get names of their own', async () => {
    const made = await times(() => createSession(open.db, newDocument('Untitled'), { isNameFreed: true }));
    const sessions = made.flatMap((one) => (one.status === 'fulfilled' ? [one.value] : []));
    expect(new Set(sessions.map(({ document }) => document.session.name)).size).toBe(MANY);
    const [first] = sessions;
    const again = await times(() => createSession(open.db, newDocument('Other'), { id: first!.id }));
    expect(again.filter((one) => one.status === 'fulfilled' && one.value.document.session.name === 'Other')).toEqual(
      [],
    );
    for (const { id } of sessions) await removeSession(open.db, id);
  });

  it('favourites are all kept, and a preset goes once', async () => {
    await times((n) => setFavourite(open.db, `factory/delay/${n}`, true));
    await times((n) => setFavourite(open.db, `factory/delay/${n % 5}`, n % 2 === 0 || n >= 5));
    expect((await listPresets(open.db)).favourites).toHaveLength(MANY);
    const effects = [{ effect: 'delay', bypass: false, values: { mix: 40 } }];
    const preset = { format: 'kinetikon.preset', version: 1, kind: 'effect', name: 'Once', tags: [], effects };
    const { id } = await createPreset(open.db, preset as unknown as PresetFile);
    const gone = await times(() => removePreset(open.db, id));
    expect(gone.filter((one) => one.status === 'fulfilled')).toHaveLength(1);
    expect(gone.filter(isCode('preset.missing'))).toHaveLength(MANY - 1);
  });

  it('uploads of the same sound leave it once, whole', async () => {
    const bytes = wav(440);
    const all = await Promise.all(
      Array.from({ length: 6 }, (_, n) => storeAsset(open.db, `${n}.wav`, inParts(bytes, 1000))),
    );
    expect(new Set(all.map(({ id, name }) => `${id} ${name}`)).size).toBe(1);
    const back: Uint8Array[] = [];
    for await (const part of readAsset(open.db, all[0]!.id)) back.push(part);
    expect(Buffer.compare(Buffer.concat(back), bytes)).toBe(0);
    const [row] = await open.db.select().from(assets).where(eq(assets.id, all[0]!.id));
    expect(await open.db.select({ id: assetChunks.uploadId }).from(assetChunks)).toEqual([{ id: row!.uploadId }]);
    expect(await open.db.$count(uploads)).toBe(0);
    await sweepAssets(open.db, -1);
  });
});

describe('a sweep', () => {
  it('waits for a save that begins to use a sound, and leaves it', async () => {
    const sound = await storeAsset(open.db, 'wanted.wav', inParts(wav(450), 1000));
    expect((await unusedAssets(open.db, -1)).map(({ id }) => id)).toEqual([sound.id]);
    let commit = () => {};
    const held = new Promise<void>((resolve) => (commit = resolve));
    let isWaiting = true;
    let noteUsed = () => {};
    const used = new Promise<void>((resolve) => (noteUsed = resolve));
    const owner = { kind: 'session' as const, ownerId: 'late' };
    const save = open.db.transaction(async (work) => {
      await addUses(work, owner, { assetId: sound.id });
      noteUsed();
      await held;
    });
    await used;
    const sweep = sweepAssets(open.db, -1).finally(() => (isWaiting = false));
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(isWaiting).toBe(true);
    commit();
    await save;
    expect(await sweep).toEqual([]);
    expect((await findAsset(open.db, sound.id)).name).toBe('wanted.wav');
    await open.db.delete(soundUses).where(eq(soundUses.ownerId, 'late'));
    expect(await sweepAssets(open.db, -1)).toHaveLength(1);
  });

  it('takes an upload whose heartbeat has stopped, which then fails by name', async () => {
    async function* stalling() {
      const bytes = wav(460);
      yield bytes.subarray(0, 2000);
      await open.db.update(uploads).set({ beatAt: new Date(Date.now() - 61_000) });
      expect(await sweepUploads(open.db)).toBe(1);
      yield bytes.subarray(2000);
    }
    await expect(storeAsset(open.db, 'stalled.wav', stalling())).rejects.toMatchObject({ code: 'upload.lost' });
    expect(await open.db.select({ id: assetChunks.uploadId }).from(assetChunks)).toEqual([]);
    expect(await open.db.select({ id: uploads.id }).from(uploads)).toEqual([]);
  });

  it('has taken an upload from the moment on at which it marks it', async () => {
    async function* marked() {
      const bytes = wav(465);
      yield bytes.subarray(0, 2000);
      await open.db.update(uploads).set({ beatAt: new Date(0) });
      yield bytes.subarray(2000);
    }
    await expect(storeAsset(open.db, 'marked.wav', marked())).rejects.toMatchObject({ code: 'upload.lost' });
    expect(await open.db.$count(assets)).toBe(0);
  });

  it('spares a session that changes while it goes', async () => {
    for (let round = 0; round < 5; round++) {
      const sound = await storeAsset(open.db, 'raced.wav', inParts(wav(470 + round), 1000));
      const document = newDocument('Raced');
      const { id } = await createSession(open.db, document);
      const after = applyCommand(document, { type: 'asset.add', asset: sound }, '').document;
      const [swept] = await Promise.all([sweepAssets(open.db, -1), saveSession(open.db, id, saveOf(1, after))]);
      const uses = await open.db.$count(soundUses, eq(soundUses.ownerId, id));
      expect(uses).toBe(1);
      const isThere = (await open.db.$count(assets, eq(assets.id, sound.id))) === 1;
      expect(isThere).toBe(swept.length === 0);
      await removeSession(open.db, id);
      await sweepAssets(open.db, -1);
    }
  });
});

describe('the database', () => {
  it('is the one that this project of the tests is about', async () => {
    const { rows } = (await open.db.execute("select current_setting('application_name') as name")) as unknown as {
      rows: { name: string }[];
    };
    expect(rows[0]!.name === 'kinetikon').toBe(HOME === 'server');
  });
});
