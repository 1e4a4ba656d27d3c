import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { RUNS_ALL } from '../../test/support/sweep';
import { spawn } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inParts } from '../../test/support/bytes';
import { openOwn } from '../../test/support/database';
import { saveOf } from '../../test/support/requests';
import { sine } from '../../test/support/render';
import { and, eq, ne } from 'drizzle-orm';
import type { PresetFile } from '@/core/formats/preset';
import { computePeaks } from '@/core/analysis/peaks';
import { writeFlac } from '@/core/formats/flac';
import { readSound } from '@/core/formats/readSound';
import { SoundScanner } from '@/core/formats/soundScanner';
import { writeWav } from '@/core/formats/wav';
import type { SaveSessionRequest } from '@/core/protocol/http';
import { documentChanges, type Change } from '@/core/session/changes';
import { applyCommand, type Command, type Step } from '@/core/session/commands';
import { historyChange, remember, undo } from '@/core/session/history';
import { EMPTY_HISTORY, type History } from '@/core/session/storedHistory';
import { newClip, newDocument } from '@/core/session/records/factories';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { OpenDatabase } from './db/database';
import { lockFolder } from './db/lock';
import { copyDemo, installDemo } from './demo';
import { assetChunks, assets, sessionChanges, sessionSteps, settings, soundUses, uploads } from './db/schema';
import { foldAllChanges, foldChanges, keepDocument } from './repositories/sessionDocuments';
import { findAsset, readAsset, storeAsset, sweepAssets, unusedAssets } from './repositories/assets';
import { sweepUploads } from './repositories/blobs';
import * as presets from './repositories/presets';
import { listSessions } from './repositories/sessionList';
import * as sessions from './repositories/sessions';
import { readSetting, writeSetting } from './repositories/settings';

jest.setTimeout(60000);

describe('the database', () => {
  let open: OpenDatabase;

  beforeAll(async () => {
    open = await openOwn();
  });

  afterAll(async () => {
    await foldAllChanges(open.db);
    await open.close();
  });

  it('refuses a second owner and says what to do', async () => {
    const other = spawn('sleep', ['30']);
    const taken = mkdtempSync(join(tmpdir(), 'kinetikon-'));
    writeFileSync(join(taken, 'owner.json'), JSON.stringify({ pid: other.pid, started: '' }));
    expect(() => lockFolder(taken)).toThrow(`is in use by process ${other.pid}`);
    other.kill('SIGKILL');
    await new Promise((resolve) => other.on('exit', resolve));
    const unlock = lockFolder(taken);
    unlock();
    lockFolder(taken)();
  });

  it('keeps sessions, counts saves, and refuses to save over what it has not seen', async () => {
    const document = newDocument('Tide');
    const created = await sessions.createSession(open.db, document);
    const renamed = { ...document, session: { ...document.session, name: 'Ebb tide' } };
    const save = (revision: number, kept = renamed) =>
      sessions.saveSession(open.db, created.id, saveOf(revision, kept));
    expect(await save(1)).toBe(2);
    await expect(save(1, document)).rejects.toMatchObject({ code: 'session.conflict' });
    expect(await sessions.loadSession(open.db, created.id)).toMatchObject({
      id: created.id,
      revision: 2,
      document: renamed,
      history: EMPTY_HISTORY,
    });
    expect((await listSessions(open.db)).sessions.map((one) => one.name)).toContain('Ebb tide');
    await sessions.removeSession(open.db, created.id);
    await expect(sessions.loadSession(open.db, created.id)).rejects.toMatchObject({ code: 'session.missing' });
    await expect(sessions.removeSession(open.db, created.id)).rejects.toMatchObject({ code: 'session.missing' });
    await expect(save(2)).rejects.toMatchObject({ code: 'session.missing' });
  });

  it('knows a save whose answer was lost for the same writer, and makes a session asked for twice once', async () => {
    const document = newDocument('Answers');
    const id = randomUUID();
    await sessions.createSession(open.db, document, { id });
    const again = await sessions.createSession(open.db, newDocument('Other'), { id });
    expect(again.document.session.name).toBe('Answers');
    const lost = saveOf(1, document);
    await sessions.saveSession(open.db, id, lost);
    const next = { ...saveOf(1, document), unanswered: [randomUUID(), lost.saveId] };
    expect(await sessions.saveSession(open.db, id, next)).toBe(3);
    // The same answer lost, and somebody else in between.
    await sessions.saveSession(open.db, id, saveOf(3, document));
    const late = { ...saveOf(1, document), unanswered: [lost.saveId, next.saveId] };
    await expect(sessions.saveSession(open.db, id, late)).rejects.toMatchObject({ code: 'session.conflict' });
    await sessions.removeSession(open.db, id);
  });

  it('renames sessions, keeps them in the bin, and finds names that are free', async () => {
    const { id } = await sessions.createSession(open.db, newDocument('Neap'));
    const freed = async (name: string) => {
      const made = await sessions.createSession(open.db, newDocument(name), { isNameFreed: true });
      await sessions.removeSession(open.db, made.id);
      return made.document.session.name;
    };
    expect([await freed('Neap'), await freed('Spring')]).toEqual(['Neap 2', 'Spring']);
    await sessions.changeSession(open.db, id, { name: 'Neap tide' });
    const stored = await sessions.loadSession(open.db, id);
    expect([stored.document.session.name, stored.revision]).toEqual(['Neap tide', 2]);
    // Whoever has it open and saves finds that it has changed.
    await expect(sessions.saveSession(open.db, id, saveOf(1, newDocument('Neap')))).rejects.toMatchObject({
      code: 'session.conflict',
    });
    const listed = async (binned: boolean) =>
      (await listSessions(open.db, { binned })).sessions.find((one) => one.id === id);
    await sessions.changeSession(open.db, id, { binned: true });
    expect(await listed(false)).toBeUndefined();
    expect(new Date((await listed(true))!.binnedAt!).getTime()).toBeGreaterThan(Date.now() - 60000);
    await sessions.changeSession(open.db, id, { binned: false });
    expect(await listed(true)).toBeUndefined();
    expect((await listed(false))!.binnedAt).toBeNull();
    await sessions.removeSession(open.db, id);
    await expect(sessions.changeSession(open.db, id, { binned: true })).rejects.toMatchObject({
      code: 'session.missing',
    });
  });

  it('draws sessions from their sound: as loud as clips are, from where they begin, backwards where they are reversed', async () => {
    // Silent for a second, then loud for one.
    const samples = Float32Array.from({ length: 96000 }, (_, n) => (n < 48000 ? 0 : 0.5));
    const wav = writeWav({ sampleRateHz: 48000, channels: [samples] }, '24');
    const asset = await storeAsset(open.db, 'step.wav', inParts(wav, 9999));
    const clip = (id: string, more: Partial<Clip>): Command => ({
      type: 'clip.add',
      clip: {
        ...newClip({
          id,
          trackId: 'track',
          source: { kind: 'sound', assetId: asset.id },
          name: id,
          startBeat: 0,
          lengthSeconds: 2,
        }),
        ...more,
      },
    });
    const { document } = applyCommand(
      newDocument('Drawn'),
      {
        type: 'all',
        commands: [
          { type: 'session.set', values: { tempoBpm: 60 } },
          { type: 'asset.add', asset },
          { type: 'track.add', id: 'track', name: 'Track' },
          clip('whole', {}),
          clip('back', { startBeat: 2, reversed: true }),
          clip('end', { startBeat: 5, offsetSeconds: 1, lengthSeconds: 1 }),
        ],
      },
      '',
    );
    const { id } = await sessions.createSession(open.db, document);
    const { picture, seconds } = (await listSessions(open.db)).sessions.find((one) => one.id === id)!;
    expect(seconds).toBe(6);
    const [whole, back, end] = picture.map(([, , , levels]) => levels!);
    expect(picture[2]!.slice(0, 3)).toEqual([0, 5 / 6, 1]);
    const half = whole!.length / 2;
    expect(whole).toBe('0'.repeat(half) + 'i'.repeat(half));
    expect(back).toBe('i'.repeat(half) + '0'.repeat(half));
    expect(end).toMatch(/^i+$/);
    await sessions.removeSession(open.db, id);
    await sweepAssets(open.db, -1);
  });

  it('opens the demo as a fresh copy each time, and keeps its sounds though no session uses them', async () => {
    await expect(copyDemo(open.db)).rejects.toMatchObject({ code: 'session.missing' });
    await installDemo(open.db);
    await installDemo(open.db);
    expect(await unusedAssets(open.db, -1)).toEqual([]);
    const first = await sessions.loadSession(open.db, await copyDemo(open.db));
    const second = await sessions.loadSession(open.db, await copyDemo(open.db));
    expect(second.document.session.name).toBe(`${first.document.session.name} 2`);
    expect({ ...second.document, session: null }).toEqual({ ...first.document, session: null });
    for (const { id } of [first, second]) await sessions.removeSession(open.db, id);
    expect(await unusedAssets(open.db, -1)).toEqual([]);
    await open.db.delete(settings);
    await open.db.delete(soundUses);
    await sweepAssets(open.db, -1);
  });

  describe('saved by what has changed', () => {
    const document = newDocument('Changes');
    const change = (before: SessionDocument, command: Command): { document: SessionDocument; changes: Change[] } => {
      const after = applyCommand(before, command, '').document;
      return { document: after, changes: documentChanges(before, after) };
    };
    const save = (revision: number, after: SessionDocument, changes: readonly Change[]): SaveSessionRequest => ({
      ...saveOf(revision, after),
      document: undefined,
      changes,
    });

    it('is the whole document when it is loaded, before and after its snapshot is brought up to date', async () => {
      const { id } = await sessions.createSession(open.db, document);
      const one = change(document, { type: 'track.add', id: 't', name: 'One' });
      const two = change(one.document, { type: 'strip.set', id: 't', values: { gainDb: -7 } });
      await sessions.saveSession(open.db, id, save(1, one.document, one.changes));
      await sessions.saveSession(open.db, id, save(2, two.document, two.changes));
      const loaded = async () => (await sessions.loadSession(open.db, id)).document;
      expect(await loaded()).toEqual(two.document);
      // As after a start: nothing is in memory.
      keepDocument(id, null);
      expect(await loaded()).toEqual(two.document);
      const pending = () => open.db.$count(sessionChanges);
      expect(await pending()).toBe(2);
      await foldChanges(open.db, id);
      keepDocument(id, null);
      expect([await loaded(), await pending()]).toEqual([two.document, 0]);
      await sessions.changeSession(open.db, id, { name: 'Renamed' });
      expect((await loaded()).session.name).toBe('Renamed');
      expect((await listSessions(open.db)).sessions.find((row) => row.id === id)).toMatchObject({
        name: 'Renamed',
        tracks: 1,
        revision: 4,
      });
      await sessions.removeSession(open.db, id);
    });

    it('is refused when it leads elsewhere, does not fit or is no session, and stays as it was', async () => {
      const { id } = await sessions.createSession(open.db, document);
      const { document: after, changes } = change(document, { type: 'track.add', id: 't', name: 'One' });
      const attempts: SaveSessionRequest[] = [
        save(1, after, []),
        save(1, after, [{ op: 'remove', path: ['tracks', 'x', 'name'] }]),
        save(1, after, [{ op: 'remove', path: ['tracks'] }]),
        save(1, after, [{ op: 'replace', path: ['clips'], value: { x: 1 } }]),
        save(1, after, changes.slice(0, 1)),
      ];
      for (const attempt of attempts) {
        await expect(sessions.saveSession(open.db, id, attempt)).rejects.toMatchObject({ code: 'session.diverged' });
      }
      expect(await sessions.loadSession(open.db, id)).toMatchObject({ revision: 1, document });
      expect(await sessions.saveSession(open.db, id, save(1, after, changes))).toBe(2);
      await sessions.removeSession(open.db, id);
    });

    it('keeps its sounds from being swept', async () => {
      const { id } = await sessions.createSession(open.db, document);
      const bytes = writeWav({ sampleRateHz: 48000, channels: [sine(333, 48000, 4800)] }, '16');
      const asset = await storeAsset(open.db, 'kept.wav', inParts(bytes, 65536));
      const added = change(document, { type: 'asset.add', asset });
      await sessions.saveSession(open.db, id, save(1, added.document, added.changes));
      expect((await unusedAssets(open.db, -1)).map((one) => one.id)).not.toContain(asset.id);
      await sessions.removeSession(open.db, id);
      await sweepAssets(open.db, -1);
    });
  });

  it('stores steps by themselves, and gives them back as they were', async () => {
    const steps: Step[] = Array.from({ length: 260 }, (_, n) => ({
      label: `Step ${n} of ${'ab'.repeat(32)}`,
      forward: [{ op: 'replace', path: ['session', 'tempoBpm'], value: 60 + (n % 200) }],
      inverse: [{ op: 'replace', path: ['session', 'tempoBpm'], value: 59 + (n % 200) }],
    }));
    const document = newDocument('Steps');
    const { id } = await sessions.createSession(open.db, document);
    let history = EMPTY_HISTORY;
    let revision = 1;
    const store = async (next: History) => {
      const change = historyChange(history, next);
      revision = await sessions.saveSession(open.db, id, { ...saveOf(revision, document), history: change });
      history = next;
      return change.append.length;
    };
    let now: History = EMPTY_HISTORY;
    for (let n = 0; n < 250; n++) {
      now = remember(now, steps[n]!);
      if (n % 50 === 49) expect(await store(now)).toBe(50);
    }
    expect([now.past.length, now.base]).toEqual([200, 50]);
    expect(await open.db.$count(soundUses, eq(soundUses.ownerId, id))).toBe(200);
    for (let n = 0; n < 30; n++) now = undo(document, now)!.history;
    expect(await store(now)).toBe(0);
    expect((await sessions.loadSession(open.db, id)).history).toEqual(JSON.parse(JSON.stringify(now)));
    now = remember(now, steps[255]!);
    expect(await store(now)).toBe(1);
    expect((await sessions.loadSession(open.db, id)).history).toEqual(JSON.parse(JSON.stringify(now)));
    await sessions.removeSession(open.db, id);
    expect(await open.db.select().from(sessionSteps)).toEqual([]);
  });

  it('keeps sounds bit for bit under their content, once', async () => {
    const bytes = writeWav(
      { sampleRateHz: 48000, channels: [sine(200, 48000, 700000), sine(300, 48000, 700000)] },
      '24',
    );
    const asset = await storeAsset(open.db, 'long.wav', inParts(bytes, 65536));
    expect(asset).toMatchObject({ name: 'long.wav', frames: 700000, sampleRateHz: 48000, channels: 2 });
    const back: Uint8Array[] = [];
    for await (const part of readAsset(open.db, asset.id)) back.push(part);
    expect(Buffer.compare(Buffer.concat(back), bytes)).toBe(0);
    expect((await findAsset(open.db, asset.id)).peaks.length).toBe(2 * Math.ceil(700000 / 256));
    const again = await storeAsset(open.db, 'copy.wav', inParts(bytes, 99999));
    expect(again).toEqual(asset);
    const pieces = await open.db.select({ piece: assetChunks.piece }).from(assetChunks);
    expect(pieces).toHaveLength(Math.ceil(bytes.length / 2 ** 20));
  });

  it('breaks off where a piece of a sound is missing or changed, and takes it whole when it comes again', async () => {
    const bytes = writeWav(
      { sampleRateHz: 48000, channels: [sine(110, 48000, 900000), sine(220, 48000, 900000)] },
      '16',
    );
    const { id } = await storeAsset(open.db, 'torn.wav', inParts(bytes, 65536));
    const [{ uploadId } = { uploadId: '' }] = await open.db.select().from(assets).where(eq(assets.id, id));
    const pieceTwo = and(eq(assetChunks.uploadId, uploadId), eq(assetChunks.piece, 1));
    const read = async () => {
      let length = 0;
      for await (const part of readAsset(open.db, id)) length += part.length;
      return length;
    };
    expect(await read()).toBe(bytes.length);
    const [{ data } = { data: new Uint8Array() }] = await open.db.select().from(assetChunks).where(pieceTwo);
    await open.db
      .update(assetChunks)
      .set({ data: data.map((byte, n) => (n === 77 ? byte ^ 1 : byte)) })
      .where(pieceTwo);
    await expect(read()).rejects.toMatchObject({
      code: 'asset.damaged',
      message: expect.stringMatching(/^The sound torn.wav/),
    });
    await open.db.delete(assetChunks).where(pieceTwo);
    await expect(read()).rejects.toThrow('piece 2 is missing');
    expect((await storeAsset(open.db, 'torn.wav', inParts(bytes, 65536))).id).toBe(id);
    expect(await read()).toBe(bytes.length);
    const pieces = await open.db.select({ uploadId: assetChunks.uploadId }).from(assetChunks);
    expect(pieces.filter((piece) => piece.uploadId === uploadId)).toEqual([]);
  });

  it('leaves nothing of a broken upload, and sweeps what a crash left', async () => {
    await expect(storeAsset(open.db, 'noise.txt', inParts(new Uint8Array(2000000), 65536))).rejects.toMatchObject({
      code: 'file.unsupported',
    });
    const hour = new Date(Date.now() - 3600_000);
    await open.db.insert(uploads).values([{ id: 'lost', beatAt: hour }, { id: 'under way' }]);
    for (const uploadId of ['lost', 'under way']) {
      await open.db.insert(assetChunks).values({ uploadId, piece: 0, data: new Uint8Array(10) });
    }
    expect(await sweepUploads(open.db)).toBe(1);
    expect(await sweepUploads(open.db)).toBe(0);
    expect(await open.db.select({ id: uploads.id }).from(uploads)).toEqual([{ id: 'under way' }]);
    expect(await open.db.$count(assetChunks, eq(assetChunks.uploadId, 'lost'))).toBe(0);
    expect(await open.db.$count(assetChunks, eq(assetChunks.uploadId, 'under way'))).toBe(1);
    await open.db.delete(uploads);
    await open.db.delete(assetChunks).where(eq(assetChunks.uploadId, 'under way'));
  });

  it('keeps a sound that is published, whatever goes wrong after', async () => {
    const bytes = writeWav({ sampleRateHz: 48000, channels: [sine(210, 48000, 300000)] }, '24');
    const id = createHash('sha256').update(bytes).digest('hex');
    // From the moment the asset is there on, nothing can be read any more.
    let published = false;
    const failing = new Proxy(open.db, {
      get(target, name) {
        const part = Reflect.get(target, name) as (...args: unknown[]) => unknown;
        if (name === 'insert') {
          return (table: unknown) => {
            published ||= table === assets;
            return part.call(target, table);
          };
        }
        if (name === 'select' && published) throw new Error('the disk is gone');
        return typeof part === 'function' ? part.bind(target) : part;
      },
    });
    await storeAsset(failing, 'late.wav', inParts(bytes, 65536)).catch(() => {});
    const back: Uint8Array[] = [];
    for await (const part of readAsset(open.db, id)) back.push(part);
    expect(Buffer.compare(Buffer.concat(back), bytes)).toBe(0);
  });

  it('takes a large sound in with little memory and without holding others up', async () => {
    setFlagsFromString('--expose-gc');
    // Measures memory that is held, without garbage.
    const collectGarbage = runInNewContext('gc') as () => void;
    const part = new Float32Array(48000 * 30);
    for (let n = 0; n < part.length; n++) part[n] = Math.sin(n / 30) * 0.3;
    const piece = Buffer.from(part.buffer);
    const parts = RUNS_ALL ? 24 : 12;
    const head = writeWav({ sampleRateHz: 48000, channels: [new Float32Array(1)] }, '32f').slice(0, 58);
    const view = new DataView(head.buffer);
    view.setUint32(4, 0xffffffff, true);
    view.setUint32(54, 0xffffffff, true);
    let most = 0;
    let answered = 0;
    async function* body() {
      yield head;
      for (let n = 0; n < parts; n++) {
        for (let at = 0; at < piece.length; at += 65536) yield piece.subarray(at, at + 65536);
        void listSessions(open.db).then(() => answered++);
        collectGarbage();
        most = Math.max(most, process.memoryUsage().arrayBuffers);
      }
    }
    collectGarbage();
    const before = process.memoryUsage().arrayBuffers;
    const asset = await storeAsset(open.db, 'long.wav', body());
    // Requests that came in between did not wait for its end; the last may still be under way.
    expect(answered).toBeGreaterThanOrEqual(parts / 2);
    expect(asset.frames).toBe(parts * part.length);
    // Half of what came was never there at once.
    expect(most - before).toBeLessThan((parts * piece.length) / 2);
  });

  it('finds what readSound finds, however the file is cut into parts', async () => {
    const channels = [sine(300, 48000, 30000), sine(400, 48000, 30000)];
    const files: [string, Uint8Array][] = [
      ['a.wav', writeWav({ sampleRateHz: 44100, channels }, '24')],
      ['b.wav', writeWav({ sampleRateHz: 44100, channels: channels.slice(1) }, '16')],
      ['c.flac', await writeFlac({ sampleRateHz: 48000, channels }, 24)],
    ];
    for (const [name, bytes] of files) {
      const sound = await readSound(bytes, name);
      for (const size of [7, 1000, bytes.length]) {
        const scanner = new SoundScanner(name);
        for await (const part of inParts(bytes, size)) await scanner.push(part);
        const facts = await scanner.end();
        expect([facts.frames, facts.channels, facts.sampleRateHz]).toEqual([
          sound.channels[0]!.length,
          sound.channels.length,
          sound.sampleRateHz,
        ]);
        if (name !== 'c.flac') expect(facts.peaks).toEqual(computePeaks(sound.channels));
      }
      const torn = new SoundScanner(name);
      const half = (async () => {
        for await (const part of inParts(bytes.subarray(0, bytes.length / 2), 700)) await torn.push(part);
        await torn.end();
      })();
      await expect(half).rejects.toMatchObject({ code: 'file.broken' });
    }
    await expect(new SoundScanner('nothing.wav').end()).rejects.toMatchObject({ code: 'file.empty' });
  });

  it('finds and sweeps sounds that nothing has used for a while, and no others', async () => {
    const wav = (hz: number) => writeWav({ sampleRateHz: 48000, channels: [sine(hz, 48000, 4000)] }, '16');
    const bring = async (hz: number) => storeAsset(open.db, `${hz}.wav`, inParts(wav(hz), 4000));
    const [used, undone, compared, lonely, fresh] = [
      await bring(501),
      await bring(502),
      await bring(503),
      await bring(504),
      await bring(505),
    ];
    const document = applyCommand(newDocument('Uses'), { type: 'asset.add', asset: used }, '').document;
    const step = applyCommand(document, { type: 'asset.add', asset: undone }, '').step;
    const other = applyCommand(newDocument('Prints'), { type: 'asset.add', asset: compared }, '').document;
    const { id } = await sessions.createSession(open.db, document, { history: remember(EMPTY_HISTORY, step) });
    const second = await sessions.createSession(open.db, other);
    await open.db
      .update(assets)
      .set({ usedAt: new Date(Date.now() - 8 * 86400000) })
      .where(ne(assets.id, fresh.id));
    const names = async () => (await unusedAssets(open.db)).map((one) => one.name);
    expect(await names()).toContain(lonely.name);
    for (const one of [used, undone, compared, fresh]) expect(await names()).not.toContain(one.name);
    // A session that goes leaves its sounds for a while.
    await sessions.removeSession(open.db, second.id);
    expect(await names()).not.toContain(compared.name);
    expect((await sweepAssets(open.db)).map((one) => one.name)).toContain(lonely.name);
    expect(await names()).toEqual([]);
    await expect(findAsset(open.db, lonely.id)).rejects.toMatchObject({ code: 'asset.missing' });
    expect((await findAsset(open.db, undone.id)).name).toBe(undone.name);
    expect(await sweepUploads(open.db)).toBe(0);
    await sessions.removeSession(open.db, id);
  });

  it('lets sounds of a batch go by themselves, unless somebody else has brought them in', async () => {
    const wav = (hz: number) => writeWav({ sampleRateHz: 48000, channels: [sine(hz, 48000, 4000)] }, '16');
    const bring = (hz: number, isTemporary: boolean) =>
      storeAsset(open.db, `${hz}.wav`, inParts(wav(hz), 4000), { isTemporary });
    const [alone, also] = [await bring(601, true), await bring(602, true)];
    await bring(602, false);
    await bring(603, false);
    await bring(603, true);
    expect(await sweepAssets(open.db, 7, 'temporary')).toEqual([]);
    expect((await sweepAssets(open.db, -1, 'temporary')).map(({ id }) => id)).toEqual([alone.id]);
    expect((await findAsset(open.db, also.id)).name).toBe('602.wav');
    await sweepAssets(open.db, -1);
  });

  it('keeps presets and which are favourites', async () => {
    const preset: PresetFile = {
      format: 'kinetikon.preset',
      version: 1,
      kind: 'effect',
      name: 'Quay',
      tags: ['voice'],
      effects: [{ effect: 'delay', bypass: false, values: { mix: 40 } }],
    };
    const { id } = await presets.createPreset(open.db, preset);
    await presets.setFavourite(open.db, id, true);
    await presets.setFavourite(open.db, 'factory/delay/bouncing', true);
    expect(await presets.listPresets(open.db)).toEqual({
      presets: [{ id, preset }],
      favourites: [id, 'factory/delay/bouncing'],
    });
    await presets.removePreset(open.db, id);
    expect(await presets.listPresets(open.db)).toEqual({ presets: [], favourites: ['factory/delay/bouncing'] });
    await expect(presets.removePreset(open.db, id)).rejects.toMatchObject({ code: 'preset.missing' });
  });

  it('keeps settings', async () => {
    expect(await readSetting(open.db, 'theme')).toBeUndefined();
    await writeSetting(open.db, 'theme', 'night');
    await writeSetting(open.db, 'theme', 'paper');
    expect(await readSetting(open.db, 'theme')).toBe('paper');
  });
});
