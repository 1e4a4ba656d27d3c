import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { newDocument } from '@/core/session/records/factories';
import { noiseFile } from '../support/bytes';
import { saveOf } from '../support/requests';
import { startServer, stopProcess } from '../support/serverProcess';
import { FIRST_PORT } from './server';

const PORT = FIRST_PORT - 1;
const BASE = `http://127.0.0.1:${PORT}`;

const soundFile = (seed: number) => noiseFile(seed, 300_000);

test('killed while saving and uploading, the server loses nothing it had acknowledged', async () => {
  test.setTimeout(180000);
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-kill-'));
  let server = await startServer(PORT, folder, false);
  const send = (path: string, method: string, body: unknown) =>
    fetch(`${BASE}${path}`, { method, body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } });
  const created = (await (await send('/api/sessions', 'POST', { name: 'Storm' })).json()) as { id: string };
  let revision = 1;
  const sounds: { id: string; seed: number }[] = [];
  let seed = 0;

  for (let round = 0; round < 3; round++) {
    let running = true;
    // An answer that breaks off is none: neither the save nor the sound counts as acknowledged.
    const whole = <T>(answer: Promise<Response>) =>
      answer.then((response) => (response.ok ? (response.json() as Promise<T>) : null)).catch(() => null);
    const save = async () => {
      while (running) {
        const next = newDocument('Storm');
        next.session.tempoBpm = 60 + (revision % 200);
        const save = saveOf(revision, next);
        const saved = await whole<{ revision: number }>(send(`/api/sessions/${created.id}`, 'PUT', save));
        if (!saved) return;
        revision = saved.revision;
      }
    };
    const upload = async () => {
      while (running) {
        seed++;
        const stored = await whole<{ asset: { id: string } }>(
          fetch(`${BASE}/api/assets`, {
            method: 'POST',
            body: soundFile(seed) as Uint8Array<ArrayBuffer>,
            headers: { 'x-file-name': `gust-${seed}.wav` },
          }),
        );
        if (!stored) return;
        sounds.push({ id: stored.asset.id, seed });
      }
    };
    const work = Promise.all([save(), upload()]);
    await new Promise((resolve) => setTimeout(resolve, 2500 + 370 * round));
    await stopProcess(server, 'SIGKILL');
    running = false;
    await work;
    server = await startServer(PORT, folder, false);

    const stored = (await (await fetch(`${BASE}/api/sessions/${created.id}`)).json()) as { revision: number };
    // The last save may have been done and not yet answered.
    expect([revision, revision + 1]).toContain(stored.revision);
    revision = stored.revision;
  }

  expect(sounds.length).toBeGreaterThan(2);
  for (const sound of sounds) {
    const bytes = new Uint8Array(await (await fetch(`${BASE}/api/assets/${sound.id}`)).arrayBuffer());
    expect(Buffer.compare(bytes, soundFile(sound.seed))).toBe(0);
  }
  await stopProcess(server, 'SIGKILL');
  rmSync(folder, { recursive: true });
});

test('ended in order, the server answers what was asked, and is gone within ten seconds', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-end-'));
  const server = await startServer(PORT, folder, false);
  const file = soundFile(1);
  let noteBegun = () => {};
  const begun = new Promise<void>((resolve) => (noteBegun = resolve));
  let goOn = () => {};
  const held = new Promise<void>((resolve) => (goOn = resolve));
  const parts = [file.subarray(0, 300000), file.subarray(300000)];
  const body = new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        if (parts.length === 1) {
          noteBegun();
          await held;
        }
        controller.enqueue(parts.shift()!);
        if (parts.length === 0) controller.close();
      },
    },
    { highWaterMark: 0 },
  );
  const headers = { 'x-file-name': 'last.wav' };
  const answer = fetch(`${BASE}/api/assets`, { method: 'POST', body, headers, duplex: 'half' } as RequestInit);
  await begun;
  const began = Date.now();
  const ended = new Promise<number | null>((resolve) => server.on('exit', resolve));
  server.kill('SIGTERM');
  await expect
    .poll(() =>
      fetch(`${BASE}/api/health`).then(
        () => 'answers',
        () => 'refused',
      ),
    )
    .toBe('refused');
  goOn();
  expect((await answer).status).toBe(201);
  expect(await ended).toBe(0);
  expect(Date.now() - began).toBeLessThan(10000);
  rmSync(folder, { recursive: true });
});
