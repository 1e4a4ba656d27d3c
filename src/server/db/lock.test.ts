import { fork, spawnSync, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildSync } from 'esbuild';
import { lockFolder } from './lock';

const RACES = 100;
const base = mkdtempSync(join(tmpdir(), 'kinetikon-lock-'));
afterAll(() => rmSync(base, { recursive: true }));

/** Number of a process that has ended. */
const ended = spawnSync('true').pid;
/** Contents of a folder before two processes want it. */
const STATES: readonly (readonly [string, string | null])[] = [
  ['a fresh folder', null],
  ['a folder whose owner has ended', JSON.stringify({ pid: ended, started: '1' })],
  ['a folder whose owner has ended and the heir of that too', JSON.stringify({ pid: ended, started: '2' })],
  ['a folder with a torn owner', '{"pid": 12'],
];

describe('the lock of a data folder', () => {
  let racers: ChildProcess[] = [];
  beforeAll(() => {
    const outfile = join(base, 'racer.cjs');
    const entry = 'test/support/lockRacer.ts';
    buildSync({
      entryPoints: [entry],
      outfile,
      bundle: true,
      platform: 'node',
      format: 'cjs',
      tsconfig: 'tsconfig.json',
    });
    racers = Array.from({ length: 2 }, () => fork(outfile));
  });
  afterAll(() => racers.forEach((racer) => racer.kill('SIGKILL')));

  async function answerOf(racer: ChildProcess): Promise<boolean> {
    const [{ got }] = (await once(racer, 'message')) as [{ got: boolean }];
    return got;
  }

  function race(folder: string): Promise<boolean[]> {
    const answers = racers.map(answerOf);
    const at = Date.now() + 4;
    for (const racer of racers) racer.send({ folder, at });
    return Promise.all(answers);
  }

  it.each(STATES)('goes to one of two processes that start together: %s', async (name, owner) => {
    for (let round = 0; round < RACES; round++) {
      const folder = mkdtempSync(join(base, 'race-'));
      if (owner !== null) writeFileSync(join(folder, 'owner.json'), owner);
      if (name.includes('heir')) {
        // An heir that was killed right after it had come forward.
        const unlock = lockFolder(folder);
        const text = readFileSync(join(folder, 'owner.json'), 'utf8');
        unlock();
        const heir = createHash('sha256').update(owner!).digest('hex').slice(0, 16);
        writeFileSync(join(folder, 'owner.json'), owner!);
        writeFileSync(join(folder, `heir-${heir}.json`), text.replace(String(process.pid), String(ended)));
      }
      const got = await race(folder);
      expect([round, got.filter(Boolean).length]).toEqual([round, 1]);
      expect(readdirSync(folder)).toEqual(['owner.json']);
    }
  });

  it('is left to an owner in another container or machine as long as that touches its file', () => {
    const folder = mkdtempSync(join(base, 'far-'));
    const path = join(folder, 'owner.json');
    // Its process id is that of a process here, which says nothing.
    const far = { pid: ended, started: '1', token: 'far', url: null, home: 'elsewhere' };
    writeFileSync(path, JSON.stringify(far));
    expect(() => lockFolder(folder)).toThrow('is in use by process');
    const aMinuteAgo = Date.now() / 1000 - 60;
    utimesSync(path, aMinuteAgo, aMinuteAgo);
    lockFolder(folder)();
  });

  it('is renewed while it is held, and whoever finds it taken by another is told', async () => {
    jest.useFakeTimers({ doNotFake: ['nextTick'] });
    try {
      const folder = mkdtempSync(join(base, 'renewed-'));
      const path = join(folder, 'owner.json');
      const onReplaced = jest.fn();
      const unlock = lockFolder(folder, onReplaced);
      utimesSync(path, 0, 0);
      jest.advanceTimersByTime(5000);
      expect(statSync(path).mtimeMs).toBeGreaterThan(0);
      writeFileSync(path, JSON.stringify({ pid: 1, started: '', token: 'other', url: null, home: 'elsewhere' }));
      jest.advanceTimersByTime(5000);
      jest.advanceTimersByTime(5000);
      expect(onReplaced).toHaveBeenCalledTimes(1);
      unlock();
      expect(readFileSync(path, 'utf8')).toContain('other');
    } finally {
      jest.useRealTimers();
    }
  });

  it('is not given twice to one process either, and is free again once given back', () => {
    const folder = mkdtempSync(join(base, 'own-'));
    const unlock = lockFolder(folder);
    expect(() => lockFolder(folder)).toThrow(`is in use by process ${process.pid}`);
    unlock();
    lockFolder(folder)();
    expect(readdirSync(folder)).toEqual([]);
  });
});
