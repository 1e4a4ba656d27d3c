import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sine } from '../../test/support/render';
import type { PresetFile } from '@/core/formats/preset';
import { writeWav } from '@/core/formats/wav';
import type { SaveSessionRequest } from '@/core/protocol/http';
import type { Step } from '@/core/session/commands';
import { EMPTY_HISTORY, historyChange, remember, undo, type History } from '@/core/session/history';
import { newDocument, type SessionDocument } from '@/core/session/records';
import { openDatabase, type OpenDatabase } from './db/client';
import { lockFolder } from './db/lock';
import { assetChunks, sessionSteps } from './db/schema';
import { findAsset, readAsset, storeAsset, sweepUploads } from './repositories/assets';
import * as presets from './repositories/presets';
import * as sessions from './repositories/sessions';
import { readSetting, writeSetting } from './repositories/settings';

jest.setTimeout(60000);

async function* inParts(bytes: Uint8Array, size: number) {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}

const saveOf = (revision: number, document: SessionDocument): SaveSessionRequest => ({
  revision,
  saveId: randomUUID(),
  unanswered: [],
  document,
  history: { keep: 0, append: [], first: 0, cursor: 0 },
});

describe('the database', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-'));
  let open: OpenDatabase;

  beforeAll(async () => {
    jest.spyOn(console, 'log').mockImplementation(() => {});
    open = await openDatabase(folder);
  });

  afterAll(async () => {
    await open.close();
    rmSync(folder, { recursive: true });
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
    expect(await sessions.loadSession(open.db, created.id)).toEqual({
      id: created.id,
      revision: 2,
      document: renamed,
      history: EMPTY_HISTORY,
    });
    expect((await sessions.listSessions(open.db)).map((one) => one.name)).toContain('Ebb tide');
    await sessions.removeSession(open.db, created.id);
    await expect(sessions.loadSession(open.db, created.id)).rejects.toMatchObject({ code: 'session.missing' });
    await expect(sessions.removeSession(open.db, created.id)).rejects.toMatchObject({ code: 'session.missing' });
    await expect(save(2)).rejects.toMatchObject({ code: 'session.missing' });
  });

  it('knows a save whose answer was lost for the same writer, and makes a session asked for twice once', async () => {
    const document = newDocument('Answers');
    const id = randomUUID();
    await sessions.createSession(open.db, document, EMPTY_HISTORY, id);
    const again = await sessions.createSession(open.db, newDocument('Other'), EMPTY_HISTORY, id);
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

  it('stores steps by themselves, and gives them back as they were', async () => {
    const steps: Step[] = Array.from({ length: 260 }, (_, n) => ({
      label: `Step ${n}`,
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

  it('leaves nothing of a broken upload, and sweeps what a crash left', async () => {
    await expect(storeAsset(open.db, 'noise.txt', inParts(new Uint8Array(2000000), 65536))).rejects.toMatchObject({
      code: 'file.unsupported',
    });
    await open.db.insert(assetChunks).values({ uploadId: 'lost', piece: 0, data: new Uint8Array(10) });
    expect(await sweepUploads(open.db)).toBe(1);
    expect(await sweepUploads(open.db)).toBe(0);
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
