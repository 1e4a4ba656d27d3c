/**
 * A session of hours in headless Chromium: 40 mono tracks of one hour from eight sounds, 20 tracks of 3 minutes, 1000 clips
 * and two returns, played with a jump every 20 s. `npm run bench:hours` prints its figures (needs the build, and Debian's
 * flac); `--minutes N` for other than 15, `--folder PATH` keeps the material for further runs.
 */
import '../src/core/wasm/embedded';
import { spawn } from 'node:child_process';
import { createReadStream, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type BrowserContext, type Page } from '@playwright/test';
import { option } from './option';
import { startServer, stopProcess } from '../test/support/serverProcess';
import type { Asset } from '../src/core/session/records/clips';
import type { SessionDocument } from '../src/core/session/records/document';
import { newClip, newDocument, newReturn, newTrack } from '../src/core/session/records/factories';
import { openDatabase } from '../src/server/db/client';
import { storeAsset } from '../src/server/repositories/assets';
import { listSessions } from '../src/server/repositories/sessionList';
import { createSession } from '../src/server/repositories/sessions';

const PORT = 3178;
const RATE = 48000;
const HOUR = 3600;
const MINUTES = Number(option('--minutes', '15'));
const KEPT = option('--folder', '');
const JUMP_SECONDS = 20;

/** Writes a sound of 16 bits and one channel: ten seconds of partials that swell, over and over, other ones for each. */
async function writeSound(path: string, seconds: number, seed: number): Promise<void> {
  const loop = Int16Array.from({ length: 10 * RATE }, (_, n) => {
    const t = n / RATE;
    const partials = [1, 2, 3, 5].map((k) => Math.sin(2 * Math.PI * (60 + 10 * seed) * k * t) / k);
    return 4000 * Math.sin(Math.PI * ((t * (1 + seed / 10)) % 1)) * partials.reduce((a, b) => a + b);
  });
  const format = ['--force-raw-format', '--endian=little', '--sign=signed', '--channels=1', '--bps=16'];
  const flac = spawn('flac', ['--silent', '-f', ...format, `--sample-rate=${RATE}`, '-', '-o', path], {
    stdio: ['pipe', 'ignore', 'inherit'],
  });
  const bytes = Buffer.from(loop.buffer);
  for (let done = 0; done < seconds; done += 10) {
    if (!flac.stdin.write(bytes)) await new Promise((resolve) => flac.stdin.once('drain', resolve));
  }
  flac.stdin.end();
  await new Promise((resolve) => flac.on('exit', resolve));
}

function sessionOf(hours: readonly Asset[], short: Asset): SessionDocument {
  const document = newDocument('Hours');
  document.session.tempoBpm = 120;
  for (const asset of [...hours, short]) document.assets[asset.id] = asset;
  for (const id of ['hall', 'echo']) {
    document.returns[id] = newReturn(id, id, 'return');
    document.session.returnIds.push(id);
  }
  const addClip = (
    trackId: string,
    asset: Asset,
    startSeconds: number,
    offsetSeconds: number,
    lengthSeconds: number,
  ) => {
    const id = `clip-${Object.keys(document.clips).length}`;
    const source = { kind: 'sound' as const, assetId: asset.id };
    const clip = newClip({ id, trackId, source, name: id, startBeat: 2 * startSeconds, lengthSeconds });
    document.clips[id] = { ...clip, offsetSeconds, gainDb: -30 };
  };
  for (let n = 0; n < 60; n++) {
    const id = `track-${n}`;
    document.tracks[id] = newTrack(id, `Track ${n + 1}`);
    document.session.trackIds.push(id);
    // 40 hours in 24 pieces each, every track at another place of its sound; 20 times 3 minutes in two.
    if (n < 40) {
      const into = 37 * n;
      for (let piece = 0; piece < 24; piece++) {
        const length = Math.min(150, HOUR - into - 150 * piece);
        if (length > 0) addClip(id, hours[n % hours.length]!, 150 * piece, into + 150 * piece, length);
      }
    } else for (let piece = 0; piece < 2; piece++) addClip(id, short, 90 * piece, 90 * piece, 90);
  }
  return document;
}

/** Resident memory of the page's process, in MB: what it shares is counted by its part. */
function pageMemory(profile: string): number {
  let most = 0;
  for (const id of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      const command = readFileSync(`/proc/${id}/cmdline`, 'utf8');
      if (!command.includes('--type=renderer') || !command.includes(profile)) continue;
      const pss = Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${id}/smaps_rollup`, 'utf8'))![1]);
      most = Math.max(most, pss / 1024);
    } catch {
      // It has ended meanwhile.
    }
  }
  return most;
}

const meter = (page: Page) =>
  page
    .locator('.main-meter .level')
    .first()
    .evaluate((bar) => bar.getBoundingClientRect().width);

async function until(page: Page, isSo: () => Promise<boolean>): Promise<number> {
  const began = Date.now();
  while (!(await isSo())) await page.waitForTimeout(50);
  return Date.now() - began;
}

/** Opens the session and plays it in its middle; says how long that took. */
async function opened(within: BrowserContext, how: string) {
  const page = await within.newPage();
  const began = Date.now();
  await page.goto(`http://127.0.0.1:${PORT}/session/${id}`, { waitUntil: 'commit' });
  await page.locator('.clip').first().waitFor({ timeout: 60000 });
  const shown = Date.now() - began;
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  const box = (await page.locator('.beat-ruler').boundingBox())!;
  const jump = (place: number) => page.mouse.click(box.x + place * box.width, box.y + box.height - 6);
  await jump(0.37);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await until(page, async () => (await meter(page)) > 3);
  say(`clips after ${shown} ms, playing in its middle after ${Date.now() - began} ms, opened ${how}`);
  return { page, jump };
}

const folder = mkdtempSync(join(tmpdir(), 'kinetikon-hours-'));
const profile = join(folder, 'profile');
const data = KEPT === '' ? join(folder, 'data') : KEPT;
const blobs = join(data, 'blobs');
process.env.KINETIKON_BLOBS = blobs;
mkdirSync(blobs, { recursive: true });
const say = (text: string) => process.stdout.write(`${text}\n`);
const { db, close } = await openDatabase({ folder: data });
const stored = async (name: string, seconds: number, seed: number) => {
  const path = join(folder, name);
  await writeSound(path, seconds, seed);
  const asset = await storeAsset(db, name, createReadStream(path));
  rmSync(path);
  return asset;
};
const sessionIn = async (): Promise<string> => {
  const [made] = (await listSessions(db)).sessions;
  if (made) return made.id;
  const hours: Asset[] = [];
  for (let n = 0; n < 8; n++) hours.push(await stored(`hour-${n}.flac`, HOUR, n));
  return (await createSession(db, sessionOf(hours, await stored('short.flac', 180, 9)))).id;
};
const id = await sessionIn();
await close();
const server = await startServer(PORT, data, false);
const browser = () =>
  chromium.launchPersistentContext(profile, {
    executablePath: '/usr/bin/chromium',
    viewport: { width: 1280, height: 800 },
  });
let context = await browser();
try {
  await opened(context, 'for the first time');
  await context.close();
  context = await browser();
  const { page, jump } = await opened(context, 'again');
  const late = page.getByText('was not read in time');
  let lateTimes = 0;
  let early = 0;
  const end = Date.now() + 60000 * MINUTES;
  for (let jumps = 0; Date.now() < end; jumps++) {
    await page.waitForTimeout(1000 * JUMP_SECONDS);
    if ((await late.count()) > 0) {
      lateTimes++;
      await page.getByRole('button', { name: 'Close this message' }).first().click();
    }
    const memory = pageMemory(profile);
    if (jumps === Math.round(120 / JUMP_SECONDS) - 1) early = memory;
    say(`${(JUMP_SECONDS * (jumps + 1)).toFixed(0)} s: ${memory.toFixed(0)} MB, late ${lateTimes} times`);
    await jump(((jumps * 0.377) % 0.9) + 0.02);
  }
  const engine = await page.locator('[title^="Part of one core"]').first().textContent();
  const last = pageMemory(profile);
  say(
    `memory ${last.toFixed(0)} MB at the end, ${early.toFixed(0)} MB after 2 minutes; engine ${engine}; late ${lateTimes} times`,
  );
} finally {
  await context.close();
  await stopProcess(server, 'SIGTERM');
  rmSync(folder, { recursive: true, force: true });
}
