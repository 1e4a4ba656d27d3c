import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from '@playwright/test';
import { readWav } from '@/core/formats/wav';
import { startCluster, type Cluster } from '../support/cluster';
import { newServerDatabase } from '../support/database';
import { startServer, startWorker, stopProcess } from '../support/serverProcess';
import { newDocument } from '@/core/session/records/factories';
import { renderInStorm, work } from '../support/studioLoad';
import { FIRST_PORT, test } from './server';
import { addEffect, bounce, bringIn, newSession, saved, voiceFile } from './studio';

/** One below those of the workers and of killed.spec.ts. */
const PORT = FIRST_PORT - 2;

let cluster: Cluster;
let server: ChildProcess;
let worker: ChildProcess;
let sounds = '';

test.beforeAll(async () => {
  cluster = await startCluster();
  const { url } = await newServerDatabase();
  sounds = mkdtempSync(join(tmpdir(), 'kinetikon-sounds-'));
  const studio = { DATABASE_URL: url, KINETIKON_BLOBS: sounds };
  server = await startServer(PORT, join(sounds, 'unused'), true, studio);
  worker = startWorker(studio);
});

test.afterAll(async () => {
  await stopProcess(worker, 'SIGTERM');
  await stopProcess(server, 'SIGTERM');
  cluster.stop();
  rmSync(sounds, { recursive: true });
});

test.use({ baseURL: `http://127.0.0.1:${PORT}` });

test('on a PostgreSQL server a session is worked on in two windows, bounced, put away and taken out', async ({
  page,
  context,
}) => {
  await newSession(page, 'Studio');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Delay');
  await saved(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByRole('button', { name: /^Clip voice/ })).toBeVisible();
  await other.getByRole('button', { name: 'Mute Main' }).click();
  await saved(other);
  await other.close();
  await page.getByRole('button', { name: 'Bypass Delay', exact: true }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'another window' })).toContainText('Both versions are kept');
  await saved(page);
  const [left] = await bounce(page);
  expect(left!.some((sample) => Math.abs(sample) > 0.01)).toBe(true);
  await page.getByRole('button', { name: 'Bounce', exact: true }).click();
  const dialog = page.getByRole('dialog', { name: /^Bounce/ });
  await dialog.getByLabel('Where').selectOption('machines');
  await dialog.getByLabel('Format').selectOption('32f');
  await dialog.getByRole('button', { name: 'Send' }).click();
  const renders = page.getByRole('list', { name: 'Bounces' });
  await expect(renders).toContainText(/done on \S+ in/, { timeout: 30000 });
  const link = renders.getByRole('link', { name: 'Download' });
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()]);
  const there = readWav(new Uint8Array(await readFile(await download.path())), 'there').channels;
  expect(Buffer.compare(Buffer.from(there[0]!.buffer), Buffer.from(left!.buffer))).toBe(0);
  await page.getByLabel('Freeze on the studio’s machines').check();
  await page.getByRole('button', { name: 'Freeze', exact: true }).click();
  await expect(renders).toContainText('voice, frozen', { timeout: 30000 });
  await page.getByRole('button', { name: 'Thaw', exact: true }).click({ timeout: 30000 });
  await saved(page);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Bypass Delay', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.goto('/');
  await page.getByRole('button', { name: 'More for Studio', exact: true }).click();
  await page.getByRole('button', { name: 'Put into the bin' }).click();
  await page.getByRole('button', { name: 'Bin (1)' }).click();
  await page.getByRole('button', { name: 'Take Studio out of the bin' }).click();
  await page.getByRole('link', { name: 'Studio', exact: true }).first().click();
  await expect(page.getByRole('button', { name: 'Mute Main' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('button', { name: /^Clip voice/ })).toBeVisible();
});

test('people at work lose nothing that was acknowledged', async () => {
  test.setTimeout(180000);
  const { saves, uploads, bounces, lost } = await work(`http://127.0.0.1:${PORT}`, server.pid!, 6, 15);
  expect(lost).toEqual([]);
  expect(saves.length).toBeGreaterThan(10);
  expect([uploads, bounces].every((count) => count > 0)).toBe(true);
});

test('renders are done, each once, while workers and the server are killed', async () => {
  test.setTimeout(180000);
  const { url, remove } = await newServerDatabase();
  const studio = { DATABASE_URL: url };
  const port = PORT - 1;
  const ended = await renderInStorm({
    base: `http://127.0.0.1:${port}`,
    document: newDocument('Storm'),
    renders: 20,
    workerKills: 2,
    serverKills: 1,
    startWorker: () => startWorker(studio),
    startServer: () => startServer(port, sounds, false, studio),
  });
  expect([...ended.values()].map(({ state }) => state)).toEqual(Array.from({ length: 20 }, () => 'done'));
  await remove();
});
