import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inParts } from '../../test/support/bytes';
import { fillFolder } from '../../test/support/database';
import { sine } from '../../test/support/render';
import { writeWav } from '@/core/formats/wav';
import { readWav } from '@/core/formats/wav';
import { applyCommand } from '@/core/session/commands';
import { newClip, newDocument } from '@/core/session/records/factories';
import { openDatabase } from '@/server/db/client';
import { storeAsset } from '@/server/repositories/assets';
import { createSession, saveSession } from '@/server/repositories/sessions';
import { saveOf } from '../../test/support/requests';
import { runBatch } from './batch';
import { changeData } from './moveData';
import { bounceSession } from './sessionBounce';
import { runWorker } from './worker';

const folder = mkdtempSync(join(tmpdir(), 'kinetikon-studio-'));
const path = (...parts: string[]) => join(folder, ...parts);
const lines: string[] = [];
const terminal = {
  out: (line: string) => lines.push(line),
  note: (line: string) => lines.push(line),
  progress: () => {},
};
const tone = (hz: number, channels = 2) =>
  writeWav({ sampleRateHz: 48000, channels: Array.from({ length: channels }, () => sine(hz, 48000, 24000)) }, '24');

let id = '';

beforeAll(async () => {
  for (const name of ['data', 'moved', 'other']) await fillFolder(path(name));
  const { db, close } = await openDatabase({ folder: path('data') });
  const asset = await storeAsset(db, 'tone.wav', inParts(tone(400)));
  const source = { kind: 'sound' as const, assetId: asset.id };
  const clip = newClip({ id: 'clip', trackId: 'voice', source, name: 'clip', startBeat: 0, lengthSeconds: 0.5 });
  const { document } = applyCommand(
    newDocument('From afar'),
    {
      type: 'all',
      commands: [
        { type: 'asset.add', asset },
        { type: 'track.add', id: 'voice', name: 'Voice' },
        { type: 'clip.add', clip },
      ],
    },
    '',
  );
  ({ id } = await createSession(db, document));
  await saveSession(db, id, saveOf(1, document));
  await close();
});

beforeEach(() => void (lines.length = 0));
afterAll(() => rmSync(folder, { recursive: true }));

describe('bounce', () => {
  const data = ['--data', path('data')];

  it('writes a session of a data folder into a file, whole or in part, and says its levels', async () => {
    await bounceSession([id, '-o', path('whole.wav'), '--format', '32f', '--json', ...data], terminal);
    expect(JSON.parse(lines.join('\n'))).toMatchObject({ clipped: 0, levels: { channels: 2 } });
    const whole = readWav(new Uint8Array(readFileSync(path('whole.wav'))), 'whole');
    await bounceSession(
      [id, '-o', path('part.wav'), '--format', '32f', '--from', '0.25', '--to', '0.5', ...data],
      terminal,
    );
    const part = readWav(new Uint8Array(readFileSync(path('part.wav'))), 'part');
    const quarter = (48000 * 60) / newDocument('').session.tempoBpm / 4;
    // The sound has come in by then.
    const [from, to] = [2000, 4000];
    const [here, there] = [part.channels[0]!.slice(from, to), whole.channels[0]!.slice(quarter + from, quarter + to)];
    expect(here).toEqual(there);
    await bounceSession([id, '-o', path('slow.wav'), '--rate', '44100', ...data], terminal);
    expect(readWav(new Uint8Array(readFileSync(path('slow.wav'))), 'slow').sampleRateHz).toBe(44100);
  });

  it.each([
    [[], 'needs the id of a session'],
    [['x y'], 'needs the id of a session'],
    [['ID'], 'needs -o OUT'],
    [['ID', '-o', 'x.wav', '--rate', '7'], '--rate takes 44100, 48000, 96000 Hz, not "7"'],
    [['ID', '-o', 'x.wav', '--from', '3', '--to', '2'], '2 does not lie behind 3'],
    [['ID', '-o', 'x.wav', '--data', 'a', '--database', 'b'], 'one is enough'],
    [['00000000-0000-4000-8000-000000000000', '-o', 'x.wav'], 'There is no session'],
  ])('refuses %j', async (args, message) => {
    const given = args.map((one) => (one === 'ID' ? id : one));
    const own = given.includes('--data') ? [] : data;
    await expect(bounceSession([...given, ...own], terminal)).rejects.toThrow(message);
    expect(existsSync('x.wav')).toBe(false);
  });
});

describe('batch', () => {
  const preset = path('preset.json');
  const batch = (...more: string[]) =>
    runBatch(
      [path('in'), '--chain', preset, '-o', path('out'), '--workers', '2', '--format', '32f', ...more],
      terminal,
    );
  const table = () => readFileSync(path('out', 'levels.csv'), 'utf8').trim().split('\n');

  beforeAll(() => {
    const effects = [{ effect: 'utility', bypass: false, values: { gain: -6 } }];
    const file = { format: 'kinetikon.preset', version: 1, kind: 'chain', name: 'Softer', tags: [], effects };
    writeFileSync(preset, JSON.stringify(file));
    mkdirSync(path('in', 'deep'), { recursive: true });
    writeFileSync(path('in', 'b.wav'), tone(300));
    writeFileSync(path('in', 'a, b.wav'), tone(350));
    writeFileSync(path('in', 'deep', 'c.wav'), tone(500, 1));
    writeFileSync(path('in', 'broken.wav'), tone(300).slice(0, 1000));
    writeFileSync(path('in', 'notes.txt'), 'no sound');
  });

  it('renders every sound of a folder, keeps its folders, names what it cannot read, and lists levels', async () => {
    await batch();
    expect(lines.at(-1)).toContain('3 rendered, 0 done before, 1 left');
    expect(readdirSync(path('out'), { recursive: true }).toSorted()).toEqual([
      'a, b.wav',
      'b.wav',
      'deep',
      join('deep', 'c.wav'),
      'levels.csv',
    ]);
    const [header, comma, b, broken, deep] = table();
    expect(header).toMatch(/^file,state,seconds,LUFS before/);
    expect(comma).toMatch(/^"a, b.wav",done,0\.\d+/);
    expect(broken).toMatch(/^broken\.wav,left,,,,,,/);
    expect(deep).toMatch(/^deep.c\.wav,done/);
    const [before, after] = b!.split(',').slice(3, 5).map(Number);
    expect(before! - after!).toBeCloseTo(6, 1);
    const [loud, soft] = [path('in', 'b.wav'), path('out', 'b.wav')].map(
      (one) => readWav(new Uint8Array(readFileSync(one)), 'b').channels[0]!,
    );
    expect(soft![100]! / loud![100]!).toBeCloseTo(10 ** (-6 / 20), 5);
  });

  it('goes on where it was stopped, without doing anything twice', async () => {
    const written = () => statSync(path('out', 'b.wav')).mtimeMs;
    const before = written();
    rmSync(path('out', 'deep', 'c.wav'));
    await batch('--resume');
    expect(lines.at(-1)).toContain('1 rendered, 2 done before, 1 left');
    expect(written()).toBe(before);
    expect(table()).toHaveLength(5);
    expect(existsSync(path('out', 'deep', 'c.wav'))).toBe(true);
  });

  it('refuses what it cannot do before it does anything', async () => {
    mkdirSync(path('empty'), { recursive: true });
    const asked = (folder: string) => runBatch([folder, '--chain', preset, '-o', path('never')], terminal);
    await expect(asked(path('empty'))).rejects.toThrow('There is no sound in');
    await expect(asked(path('nowhere'))).rejects.toMatchObject({ code: 'file.missing' });
    writeFileSync(path('in', 'b.flac'), 'x');
    await expect(asked(path('in'))).rejects.toThrow('would become the same file');
    expect(existsSync(path('never'))).toBe(false);
  });
});

describe('data and worker', () => {
  it('moves everything into another folder, goes on when asked again, and refuses a place that has other things', async () => {
    const move = (to: string, ...more: string[]) =>
      changeData(['move', '--data', path('data'), '--to', path(to), '--to-blobs', path('blobs'), ...more], terminal);
    await move('moved');
    expect(lines.at(-1)).toMatch(/^\d+ rows and 1 sounds? are there/);
    await move('moved');
    process.env.KINETIKON_BLOBS = path('blobs');
    await bounceSession([id, '-o', path('moved.wav'), '--format', '32f', '--data', path('moved')], terminal);
    delete process.env.KINETIKON_BLOBS;
    expect(readFileSync(path('moved.wav')).equals(readFileSync(path('whole.wav')))).toBe(true);
    const { db, close } = await openDatabase({ folder: path('other') });
    await createSession(db, newDocument('Already there'));
    await close();
    await expect(move('other')).rejects.toMatchObject({ code: 'data.differs' });
  });

  it('says what it takes', async () => {
    await expect(changeData(['copy'], terminal)).rejects.toThrow('data takes "move", not "copy"');
    await expect(changeData(['move'], terminal)).rejects.toThrow('needs --to');
    await expect(runWorker([], terminal)).rejects.toThrow('needs --database URL');
    await expect(runWorker(['--jobs', '0', '--database', 'postgres://x/y'], terminal)).rejects.toThrow('1 to 256');
  });
});
