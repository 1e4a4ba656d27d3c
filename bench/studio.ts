/**
 * Figures of a studio: a PostgreSQL of its own, this machine's workers. `npm run bench:studio` prints them; ratios are of
 * one run. `--only NAME` for one of list, sweep, start, workers, kills, people; `--count N` renders, `--rounds N` times for workers,
 * `--seconds N` of people (which need the build).
 */
import '../src/core/wasm/embedded';
import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { sql } from 'drizzle-orm';
import { startCluster } from '../test/support/cluster';
import { newServerDatabase } from '../test/support/database';
import { storeDemoSounds } from '../test/support/demoSounds';
import { startServer, startWorker, stopProcess } from '../test/support/serverProcess';
import { bounceOf, renderInStorm, work } from '../test/support/studioLoad';
import { SeededRandom } from '../src/core/math/random';
import { validateDocument } from '../src/core/session/document';
import { openDatabase } from '../src/server/db/client';
import type { Database } from '../src/server/db/database';
import { sweepAssets } from '../src/server/repositories/assets';
import { findRender, listRenders, orderRender } from '../src/server/repositories/renders';
import { listSessions } from '../src/server/repositories/sessionList';

const figureOf = (name: string, byDefault: number) =>
  process.argv.includes(name) ? Number(process.argv[process.argv.indexOf(name) + 1]) : byDefault;
/** Renders of each measurement, and how often it is repeated. */
const COUNT = figureOf('--count', 10);
const ROUNDS = figureOf('--rounds', 3);
const SECONDS = figureOf('--seconds', 600);
const PORT = 3176;
const BASE = `http://127.0.0.1:${PORT}`;
const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1]! : '';
/** The figures' own questions stay small beside the work. */
const OWN_POLL_MS = 200;
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
/** Beats of the demo's first section. */
const FIRST_SECTION = [0, 18] as const;
const demo = validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));

function quantile(times: readonly number[], part: number): number {
  const sorted = [...times].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(part * sorted.length))]!;
}

function say(what: string, figures: Readonly<Record<string, number | string>>): void {
  const text = Object.entries(figures).map(
    ([name, value]) => `${name} ${typeof value === 'number' ? Number(value.toPrecision(3)) : value}`,
  );
  process.stdout.write(`${what}: ${text.join(', ')}\n`);
}

/** A picture of a number of clips, each drawn by six levels. */
const picture = (clips: number, random: SeededRandom) =>
  Array.from({ length: Math.min(200, clips) }, (_, n) => [
    n % 8,
    n / clips,
    (n + 0.8) / clips,
    Array.from({ length: 6 }, () => Math.floor(36 * random.uniform()).toString(36)).join(''),
  ]);

/** The first page of a thousand sessions: 990 of 20 clips, ten of a thousand. */
async function list(db: Database, url: string): Promise<void> {
  const random = new SeededRandom(1);
  for (let n = 0; n < 1000; n++) {
    const clips = n % 100 === 0 ? 1000 : 20;
    const summary = JSON.stringify({ tracks: 8, seconds: 60 + n, picture: picture(clips, random) });
    await db.execute(
      sql`insert into sessions (id, name, revision, document, summary, updated_at) values (${randomUUID()}, ${`Session ${n}`}, 1, ${JSON.stringify(demo)}::jsonb, ${summary}::jsonb, now() - make_interval(mins => ${n}))`,
    );
  }
  for (const order of ['changed', 'name', 'length'] as const) {
    const times: number[] = [];
    let bytes = 0;
    for (let run = 0; run < 60; run++) {
      const began = performance.now();
      bytes = JSON.stringify(await listSessions(db, { order })).length;
      times.push(performance.now() - began);
    }
    say(`first 50 of 1000 sessions, ${order}`, { 'p95 ms': quantile(times, 0.95), kB: bytes / 1000 });
  }
  await drawing(url);
}

/** From the answer with the first 50 sessions to the frame that shows them, in a browser. */
async function drawing(url: string): Promise<void> {
  const server = await startServer(PORT, tmpdir(), false, { DATABASE_URL: url });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium' });
  const times: number[] = [];
  for (let run = 0; run < 5; run++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(() => {
      new MutationObserver((_, observer) => {
        if (document.querySelectorAll('.session-card').length < 50) return;
        observer.disconnect();
        requestAnimationFrame(() =>
          setTimeout(() => (document.documentElement.dataset.drawn = String(performance.now()))),
        );
      }).observe(document, { childList: true, subtree: true });
    });
    await page.goto(BASE);
    await page.waitForSelector('html[data-drawn]');
    times.push(
      await page.evaluate(() => {
        // The first page of the list comes with the document.
        const [answer] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
        return Number(document.documentElement.dataset.drawn) - answer!.responseEnd;
      }),
    );
    await page.close();
  }
  await browser.close();
  await stopProcess(server, 'SIGTERM');
  say('drawing those 50', { 'median ms': quantile(times, 0.5), 'worst ms': Math.max(...times) });
}

/** A sweep of ten thousand sounds, half of them in use. */
async function sweep(db: Database): Promise<void> {
  await db.execute(sql`insert into assets (id, upload_id, name, format, bytes, sample_rate_hz, frames, channels, peaks, used_at)
    select encode(sha256(n::text::bytea), 'hex'), 'u' || n, 'sound', 'wav', 1000, 48000, 480, 1, ''::bytea, now() - interval '9 days' from generate_series(1, 10000) as n`);
  await db.execute(
    sql`insert into sound_uses (sound_id, kind, owner_id) select id, 'session', 's' from assets where upload_id < 'u5'`,
  );
  const began = performance.now();
  const swept = await sweepAssets(db);
  say('a sweep of 10,000 sounds', { ms: performance.now() - began, swept: swept.length });
}

const workersOf = async (db: Database) =>
  ((await db.execute(sql`select count(*)::integer as count from workers`)) as unknown as { rows: { count: number }[] })
    .rows[0]!.count;

async function workersAre(db: Database, count: number): Promise<void> {
  while ((await workersOf(db)) !== count) await wait(50);
}

async function allDone(db: Database, ids: readonly string[]): Promise<void> {
  const open = new Set(ids);
  while (open.size > 0) {
    for (const { id, state, error } of await listRenders(db)) {
      if (state === 'failed') throw new Error(error!.message);
      if (state === 'done') open.delete(id);
    }
    await wait(OWN_POLL_MS);
  }
}

/** From sending a render to its start on an idle worker. */
async function start(db: Database, url: string): Promise<void> {
  const worker = startWorker({ DATABASE_URL: url });
  await workersAre(db, 1);
  const times: number[] = [];
  for (let n = 0; n < 20; n++) {
    const { id } = await orderRender(db, {
      request: {
        kind: 'impulse',
        from: { kind: 'simulated', simulator: 'pipe', values: {}, seed: n },
        sampleRateHz: 48000,
      },
      name: 'start',
    });
    await allDone(db, [id]);
    const { createdAt, startedAt } = await findRender(db, id);
    times.push(Date.parse(startedAt!) - Date.parse(createdAt));
    await wait(100);
  }
  worker.kill('SIGTERM');
  say('from sending to start on an idle worker', { 'median ms': quantile(times, 0.5), 'worst ms': Math.max(...times) });
}

/** Throughput of two workers over one, beside that of two plain processes over one; interleaved, the best of some. */
async function workers(db: Database, url: string): Promise<void> {
  const count = COUNT;
  const queue = async (size: number) => {
    const own = Array.from({ length: size }, () => startWorker({ DATABASE_URL: url }));
    await workersAre(db, size);
    await allDone(db, [(await orderRender(db, { request: bounceOf(demo, [0, 1]), name: 'warm' })).id]);
    const began = performance.now();
    const orders = [];
    for (let n = 0; n < count; n++)
      orders.push((await orderRender(db, { request: bounceOf(demo, FIRST_SECTION), name: `b${n}` })).id);
    await allDone(db, orders);
    const seconds = (performance.now() - began) / 1000;
    for (const one of own) one.kill('SIGTERM');
    await workersAre(db, 0);
    return count / seconds;
  };
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-plain-'));
  const { id } = await (await import('../src/server/repositories/sessions')).createSession(db, demo);
  const plain = async (size: number) => {
    const began = performance.now();
    const each = count / size;
    await Promise.all(
      Array.from({ length: size }, async (_, lane) => {
        for (let n = 0; n < each; n++) {
          const args = [
            'bin/kinetikon',
            'bounce',
            id,
            '-o',
            join(folder, `${lane}.wav`),
            '--to',
            String(FIRST_SECTION[1]),
            '--database',
            url,
          ];
          await new Promise((resolve) => spawn(process.execPath, args, { stdio: 'ignore' }).on('exit', resolve));
        }
      }),
    );
    return count / ((performance.now() - began) / 1000);
  };
  const bests = { queue1: 0, queue2: 0, plain1: 0, plain2: 0 };
  for (let round = 0; round < ROUNDS; round++) {
    bests.queue1 = Math.max(bests.queue1, await queue(1));
    bests.plain1 = Math.max(bests.plain1, await plain(1));
    bests.queue2 = Math.max(bests.queue2, await queue(2));
    bests.plain2 = Math.max(bests.plain2, await plain(2));
  }
  rmSync(folder, { recursive: true });
  const [gain, plainGain] = [bests.queue2 / bests.queue1, bests.plain2 / bests.plain1];
  say('two workers over one', {
    gain,
    'plain processes': plainGain,
    'part of that': gain / plainGain,
    'bounces a minute': 60 * bests.queue2,
  });
}

/** Renders that are all done, each once, although workers and the server are killed again and again. */
async function kills(db: Database, url: string): Promise<void> {
  const [renders, workerKills, serverKills] = [20 * COUNT, 2 * COUNT, Math.ceil((3 * COUNT) / 10)];
  const began = performance.now();
  const ended = await renderInStorm({
    base: BASE,
    document: demo,
    renders,
    workerKills,
    serverKills,
    startWorker: () => startWorker({ DATABASE_URL: url }),
    startServer: () => startServer(PORT, tmpdir(), false, { DATABASE_URL: url }),
  });
  const { rows } = (await db.execute(
    sql`select count(*)::integer as count, count(distinct result_blob)::integer as blobs, max(attempt) as attempts from renders where state = 'done'`,
  )) as unknown as { rows: { count: number; blobs: number; attempts: number }[] };
  say(`${renders} renders, ${workerKills} kills of workers, ${serverKills} of the server`, {
    ended: ended.size,
    done: rows[0]!.count,
    results: rows[0]!.blobs,
    'most attempts': rows[0]!.attempts,
    seconds: (performance.now() - began) / 1000,
  });
}

/** Twenty people at work on a server, with two workers that give way to it. */
async function people(_db: Database, url: string): Promise<void> {
  const studio = { DATABASE_URL: url };
  const server = await startServer(PORT, tmpdir(), true, studio);
  const own = [startWorker(studio, 1, 10), startWorker(studio, 1, 10)];
  const { saves, uploads, bounces, lost, memory } = await work(BASE, server.pid!, 20, SECONDS);
  for (const one of [...own, server]) await stopProcess(one, 'SIGTERM');
  /** Mean resident megabytes in the half minute up to a part of the time. */
  const megabytes = (part: number) => {
    const some = memory.filter(([second]) => second <= part * SECONDS && second > part * SECONDS - 30);
    return some.reduce((sum, [, bytes]) => sum + bytes, 0) / some.length / 1e6;
  };
  say(`20 people for ${SECONDS} s`, {
    saves: saves.length,
    'p50 ms': quantile(saves, 0.5),
    'p95 ms': quantile(saves, 0.95),
    'worst ms': Math.max(...saves),
    uploads,
    bounces,
    lost: lost.length,
    'MB after 30 %': megabytes(0.3),
    'MB in the end': megabytes(1),
  });
  for (const one of lost) say('lost', { what: one });
}

const cluster = await startCluster();
try {
  for (const [name, work] of Object.entries({ list, sweep, start, workers, kills, people })) {
    if (!name.includes(only)) continue;
    const { url } = await newServerDatabase();
    const { db, close } = await openDatabase({ url });
    if (name === 'workers' || name === 'kills') await storeDemoSounds(db, demo);
    await work(db, url);
    await close();
  }
} finally {
  cluster.stop();
}
