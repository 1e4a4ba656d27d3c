/**
 * Figures of the interface in headless Chromium: the demo, and sessions of 40 and of 100 strips with 1000 clips each.
 * `npm run bench:face` prints them (needs the build); `--only NAME` for one of demo, 40, 100, and `--rounds N`.
 */
import '../src/core/wasm/embedded';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser, type Page } from '@playwright/test';
import { crowdedSession } from '../test/support/crowdedSession';
import { storeDemoSounds } from '../test/support/demoSounds';
import { option } from './option';
import { startServer, stopProcess } from '../test/support/serverProcess';
import { validateDocument } from '../src/core/session/document';
import { openDatabase } from '../src/server/db/client';
import { createSession } from '../src/server/repositories/sessions';

const PORT = 3177;
const SECONDS = 8;
const ROUNDS = Number(option('--rounds', '3'));
const only = option('--only', '');

type Figures = Record<string, number>;

/** Callbacks of requestAnimationFrame a second, for a while. */
const framesIn = (page: Page, seconds: number) =>
  page.evaluate(
    (ms) =>
      new Promise<number>((resolve) => {
        let count = 0;
        const end = performance.now() + ms;
        const turn = () => {
          count++;
          if (performance.now() < end) requestAnimationFrame(turn);
          else resolve((1000 * count) / ms);
        };
        requestAnimationFrame(turn);
      }),
    1000 * seconds,
  );

/** Part of the main thread's time that is taken, per cent. */
async function busy(page: Page, seconds: number): Promise<number> {
  const client = await page.context().newCDPSession(page);
  await client.send('Performance.enable');
  const read = async () => {
    const { metrics } = await client.send('Performance.getMetrics');
    return (name: string) => metrics.find((one) => one.name === name)!.value;
  };
  const before = await read();
  await page.waitForTimeout(1000 * seconds);
  const after = await read();
  await client.detach();
  return (100 * (after('TaskDuration') - before('TaskDuration'))) / (after('Timestamp') - before('Timestamp'));
}

/** Milliseconds from a press on an element to the frame after something came of it. */
const until = (page: Page, pressed: string, done: string) =>
  page
    .locator(pressed)
    .first()
    .evaluate(
      (element, done) =>
        new Promise<number>((resolve) => {
          const began = performance.now();
          element.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, button: 0, pointerId: 1 }));
          (element as HTMLElement).click();
          const look = () =>
            document.querySelector(done)
              ? setTimeout(() => resolve(performance.now() - began))
              : requestAnimationFrame(look);
          requestAnimationFrame(look);
        }),
      done,
    );

/** Frames a second in which the chosen clip is dragged, the pointer moving with each of them. */
const dragFrames = (page: Page, seconds: number) =>
  page
    .locator('.clip-selected')
    .first()
    .evaluate(
      (clip, ms) =>
        new Promise<number>((resolve) => {
          const { x, y } = clip.getBoundingClientRect();
          const point = (type: string, by: number) =>
            new PointerEvent(type, { bubbles: true, button: 0, clientX: x + 14 + by, clientY: y + 30, altKey: true });
          // There is no pointer to be captured.
          clip.setPointerCapture = () => {};
          clip.dispatchEvent(point('pointerdown', 0));
          let count = 0;
          const began = performance.now();
          const turn = () => {
            const passed = performance.now() - began;
            if (passed < ms) {
              window.dispatchEvent(point('pointermove', 6 + (count++ % 60)));
              requestAnimationFrame(turn);
            } else {
              window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
              resolve((1000 * count) / passed);
            }
          };
          requestAnimationFrame(turn);
        }),
      1000 * seconds,
    );

async function measure(browser: Browser, url: string): Promise<Figures> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // The names that the compiler keeps for functions.
  await page.addInitScript('globalThis.__name = (one) => one');
  const began = Date.now();
  await page.goto(url, { waitUntil: 'commit' });
  await page.locator('.clip').first().waitFor({ timeout: 60000 });
  const opened = Date.now() - began;
  await page.locator('.loading-sounds').waitFor({ state: 'detached', timeout: 60000 });
  await page.waitForTimeout(3000);
  const idle = await framesIn(page, SECONDS);
  const idleBusy = await busy(page, 4);
  const scroller = page.locator('.timeline-scroll');
  await page.getByRole('button', { name: 'Zoom in' }).click();
  await page.getByRole('button', { name: 'Zoom in' }).click();
  await scroller.evaluate((box) => {
    const turn = () => {
      box.scrollLeft = (box.scrollLeft + 12) % Math.max(1, box.scrollWidth - box.clientWidth);
      box.scrollTop = (box.scrollTop + 3) % Math.max(1, box.scrollHeight - box.clientHeight);
      if (!(window as { ended?: boolean }).ended) requestAnimationFrame(turn);
    };
    requestAnimationFrame(turn);
  });
  const scrolling = await framesIn(page, SECONDS);
  await page.evaluate(() => ((window as { ended?: boolean }).ended = true));
  await scroller.evaluate((box) => (box.scrollTop = box.scrollLeft = 0));
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForTimeout(1500);
  const playing = await framesIn(page, SECONDS);
  const engineText = (await page.locator('[title^="Part of one core"]').first().textContent())!;
  const engine = Number(/[\d.]+/.exec(engineText)![0]);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await scroller.evaluate((box) => (box.scrollTop = box.scrollLeft = 0));
  await page.waitForTimeout(500);
  const choosing = await until(page, '.clip:not(.clip-selected)', '.clip-selected');
  await page.mouse.up();
  const dragging = await dragFrames(page, 4);
  const routing = await until(page, 'nav button:text-is("Routing")', '.strip-node');
  const stage = await until(page, 'nav button:text-is("Stage")', '.plan');
  await page.close();
  return {
    'first clip, ms': opened,
    'idle, frames/s': idle,
    'idle, main thread %': idleBusy,
    'scrolling, frames/s': scrolling,
    'playing, frames/s': playing,
    'engine %': engine,
    'choosing a clip, ms': choosing,
    'dragging, frames/s': dragging,
    'Routing, ms': routing,
    'Stage, ms': stage,
  };
}

const folder = mkdtempSync(join(tmpdir(), 'kinetikon-face-'));
const demo = validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));
const { db, close } = await openDatabase({ folder });
await storeDemoSounds(db, demo);
const sessions = new Map<string, string>();
for (const [name, document] of [
  ['demo', demo],
  ['40 strips', crowdedSession(demo, 40, 1000)],
  ['100 strips', crowdedSession(demo, 100, 1000)],
] as const) {
  if (name.includes(only)) sessions.set(name, (await createSession(db, document)).id);
}
await close();
const server = await startServer(PORT, folder, false);
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium' });
const found = new Map<string, Figures[]>([...sessions.keys()].map((name) => [name, []]));
try {
  for (let round = 0; round < ROUNDS; round++)
    for (const [name, id] of sessions)
      found.get(name)!.push(await measure(browser, `http://127.0.0.1:${PORT}/session/${id}`));
} finally {
  await browser.close();
  await stopProcess(server, 'SIGTERM');
  rmSync(folder, { recursive: true });
}
const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;
for (const [name, all] of found) {
  const texts = Object.keys(all[0]!).map(
    (key) => `${key} ${Number(median(all.map((one) => one[key]!)).toPrecision(3))}`,
  );
  process.stdout.write(`${name}: ${texts.join(', ')}\n`);
}
