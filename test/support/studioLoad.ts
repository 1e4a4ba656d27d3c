import type { ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { SeededRandom } from '@/core/math/random';
import type { StoredSession } from '@/core/protocol/http';
import type { Render, RenderList, RenderOrder } from '@/core/protocol/renders';
import { isUnderWay } from '@/core/protocol/renderStates';
import { documentChanges } from '@/core/session/changes';
import type { SessionDocument } from '@/core/session/records/document';
import { noiseFile } from './bytes';
import { saveOf } from './requests';
import { stopProcess } from './serverProcess';

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

async function asked<T>(base: string, path: string, init: RequestInit = {}): Promise<T> {
  const response = await fetch(base + path, init);
  if (!response.ok) throw new Error(`${init.method ?? 'GET'} ${path}: ${response.status} ${await response.text()}`);
  return (await response.json()) as T;
}

const send = <T>(base: string, method: string, path: string, body: unknown): Promise<T> =>
  asked(base, path, { method, body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } });

/** Asks for a render until a server that is away for a while has answered; the same request is made once. */
async function order(base: string, wanted: RenderOrder): Promise<Render> {
  for (;;) {
    try {
      return await send<Render>(base, 'POST', '/api/renders', wanted);
    } catch (error) {
      if (error instanceof Error && /: 4\d\d /.test(error.message)) throw error;
      await wait(200);
    }
  }
}

/** A stretch of beats of a session, as a render told apart from others by the name of its session. */
export const bounceOf = (document: SessionDocument, beats: readonly [from: number, to: number]) => ({
  kind: 'bounce' as const,
  document: { ...document, session: { ...document.session, name: `Bounce ${randomUUID()}` } },
  delivery: 'speakers' as const,
  fromBeat: beats[0],
  toBeat: beats[1],
  tailSeconds: 0,
  format: '24' as const,
  gainDb: 0,
});

export interface Storm {
  readonly base: string;
  readonly document: SessionDocument;
  readonly renders: number;
  readonly workerKills: number;
  readonly serverKills: number;
  readonly startWorker: () => ChildProcess;
  readonly startServer: () => Promise<ChildProcess>;
}

/**
 * Sends renders while workers and the server are killed again and again, and waits until all have ended.
 * @returns the renders, by id, as the list has them in the end
 */
export async function renderInStorm(storm: Storm): Promise<ReadonlyMap<string, Render>> {
  const { base, document, renders, workerKills, serverKills } = storm;
  const random = new SeededRandom(3);
  let server = await storm.startServer();
  let workers = [storm.startWorker(), storm.startWorker()];
  const kill = async (isServer: boolean) => {
    await wait(500 + 1500 * random.uniform());
    if (isServer) {
      await stopProcess(server, 'SIGKILL');
      server = await storm.startServer();
      return;
    }
    const [first, ...others] = workers;
    await stopProcess(first!, 'SIGKILL');
    workers = [...others, storm.startWorker()];
  };
  const kills = (async () => {
    const every = Math.max(1, Math.round((workerKills + serverKills) / Math.max(1, serverKills)));
    for (let n = 1, left = serverKills; n <= workerKills + serverKills; n++) {
      const isServer = left > 0 && (n % every === 0 || workerKills + serverKills - n < left);
      if (isServer) left--;
      await kill(isServer);
    }
  })();
  const ids: string[] = [];
  for (let n = 0; n < renders; n++) {
    ids.push((await order(base, { request: bounceOf(document, [0, 3]), name: `storm ${n}` })).id);
    await wait(20);
  }
  const ended = new Map<string, Render>();
  while (ended.size < ids.length) {
    const list = await asked<RenderList>(base, '/api/renders').catch(() => ({ renders: [] }));
    for (const render of list.renders) if (ids.includes(render.id) && !isUnderWay(render)) ended.set(render.id, render);
    await wait(200);
  }
  await kills;
  for (const one of [...workers, server]) await stopProcess(one, 'SIGTERM');
  return ended;
}

export interface Day {
  /** Milliseconds of each save. */
  readonly saves: readonly number[];
  readonly uploads: number;
  readonly bounces: number;
  /** What was acknowledged and is not there in the end. */
  readonly lost: readonly string[];
  /** Resident bytes of the server over time, by second. */
  readonly memory: readonly (readonly [second: number, bytes: number])[];
}

const SAVE_SECONDS = 5;
const UPLOAD_SECONDS = 60;
const BOUNCE_SECONDS = 120;
const BARS = 8;

/** Resident bytes of a process. */
const residentBytes = (pid: number) =>
  1024 * Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]);

/**
 * People at work on a server with the demo: each with a session of its size, a save every 5 s, a sound of 10 s a minute,
 * 8 bars bounced every 2 minutes, begun at times spread over those intervals.
 */
export async function work(base: string, serverPid: number, people: number, seconds: number): Promise<Day> {
  const saves: number[] = [];
  const memory: [number, number][] = [];
  const lost: string[] = [];
  const began = Date.now();
  const passed = () => (Date.now() - began) / 1000;
  const sounds = new Set<string>();
  const renders = new Set<string>();
  let isOver = false;
  /** Does something every so often, first after a share of that. */
  const often = async (every: number, share: number, task: () => Promise<void>) => {
    for (let due = every * share; due < seconds; due += every) {
      while (passed() < due) await wait(Math.min(200, 1000 * (due - passed()) + 1));
      await task();
    }
  };
  const person = async (n: number) => {
    const share = n / people;
    const { id } = await send<{ id: string }>(base, 'POST', '/api/demo', {});
    const stored = await asked<StoredSession>(base, `/api/sessions/${id}`);
    let [document, revision] = [stored.document, stored.revision];
    const save = async () => {
      const next = { ...document, session: { ...document.session, tempoBpm: 60 + (revision % 100) } };
      const sent = performance.now();
      const body = { ...saveOf(revision, next), document: undefined, changes: documentChanges(document, next) };
      revision = (await send<{ revision: number }>(base, 'PUT', `/api/sessions/${id}`, body)).revision;
      saves.push(performance.now() - sent);
      document = next;
    };
    let seed = 1000 * n;
    const upload = async () => {
      const headers = { 'x-file-name': `person ${n}.wav` };
      const body = noiseFile(++seed, 480_000, 2) as Uint8Array<ArrayBuffer>;
      sounds.add(
        (await asked<{ asset: { id: string } }>(base, '/api/assets', { method: 'POST', body, headers })).asset.id,
      );
    };
    const bounce = async () => {
      const from = 4 * (n % 4);
      const request = bounceOf(document, [from, from + 4 * BARS]);
      renders.add((await order(base, { request, name: `person ${n}`, sessionId: id })).id);
    };
    await Promise.all([
      often(SAVE_SECONDS, share, save),
      often(UPLOAD_SECONDS, share, upload),
      often(BOUNCE_SECONDS, share, bounce),
    ]);
    const after = await asked<StoredSession>(base, `/api/sessions/${id}`);
    if (after.revision !== revision || after.document.session.tempoBpm !== document.session.tempoBpm)
      lost.push(`save ${revision} of ${id}`);
  };
  const watch = (async () => {
    while (!isOver) {
      memory.push([passed(), residentBytes(serverPid)]);
      await wait(1000);
    }
  })();
  await Promise.all(Array.from({ length: people }, (_, n) => person(n)));
  isOver = true;
  await watch;
  for (const id of sounds) {
    const { status } = await fetch(`${base}/api/assets/${id}`, { headers: { range: 'bytes=0-99' } });
    if (status !== 206) lost.push(`sound ${id}`);
  }
  for (const id of renders) {
    for (;;) {
      const { state } = await asked<Render>(base, `/api/renders/${id}`);
      if (state === 'done') break;
      if (state === 'failed' || state === 'cancelled') {
        lost.push(`bounce ${id} ${state}`);
        break;
      }
      await wait(500);
    }
  }
  return { saves, uploads: sounds.size, bounces: renders.size, lost, memory };
}
