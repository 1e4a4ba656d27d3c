/**
 * Takes the pictures of docs/screenshots from the demo session, and measures in the browser how long it takes from
 * opening the demo to its first sound. Needs a build; starts its own server on its own data.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';

const PORT = 3191;
const BASE = `http://127.0.0.1:${PORT}`;
const FOLDER = 'docs/screenshots';

/** Opens the demo and presses Play as soon as it is there. Milliseconds from the click to Play, and to the first sound. */
function openAndPlay(): Promise<{ shown: number; sound: number }> {
  return new Promise((resolve) => {
    const began = performance.now();
    [...document.querySelectorAll('button')].find((one) => one.textContent.includes('Open the demo'))!.click();
    let shown = 0;
    const look = setInterval(() => {
      const play = document.querySelector<HTMLButtonElement>('button[aria-label="Play"]');
      if (shown === 0 && play && !play.disabled) {
        shown = performance.now() - began;
        play.click();
      }
      const meter = document.querySelector('.main-meter .level');
      if (!meter || meter.getBoundingClientRect().width <= 20) return;
      clearInterval(look);
      resolve({ shown, sound: performance.now() - began });
    }, 10);
  });
}

/** Milliseconds from frame to frame over a while: the median, and what one in twenty takes longer than. */
async function framesApart(milliseconds: number): Promise<{ median: number; late: number }> {
  const apart: number[] = [];
  const end = performance.now() + milliseconds;
  for (let before = performance.now(); before < end;) {
    const now = await new Promise<number>(requestAnimationFrame);
    apart.push(now - before);
    before = now;
  }
  apart.sort((a, b) => a - b);
  return { median: apart[Math.floor(apart.length / 2)]!, late: apart[Math.floor(apart.length * 0.95)]! };
}

/** Takes a picture; drop-outs of the machine that takes it are cleared, and told here. */
async function show(page: Page, name: string): Promise<void> {
  const dropOuts = page.locator('.drop-outs');
  if (await dropOuts.isVisible()) {
    process.stdout.write(`${name}: ${await dropOuts.innerText()}\n`);
    await dropOuts.click();
    await page.mouse.move(0, 0);
  }
  await page.screenshot({ path: `${FOLDER}/${name}.png` });
}

const data = mkdtempSync(join(tmpdir(), 'kinetikon-shots-'));
const server = spawn(process.execPath, ['dist/serve.cjs', '--port', String(PORT)], {
  env: { ...process.env, KINETIKON_DATA: data, KINETIKON_DEMO: '1', NODE_ENV: 'production' },
  stdio: 'ignore',
});
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium' });
try {
  for (
    let turn = 0;
    !(await fetch(`${BASE}/api/sessions`).then(
      (response) => response.ok,
      () => false,
    ));
    turn++
  ) {
    if (turn > 240) throw new Error('The server did not start');
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  const open = async (colorScheme: 'light' | 'dark') => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme });
    await page.goto(BASE);
    return page;
  };
  const enter = async (page: Page) => {
    await page.getByRole('button', { name: 'Open the demo' }).click();
    await page.locator('.shell').waitFor();
    await page.locator('.loading-sounds').waitFor({ state: 'detached', timeout: 30000 });
  };

  const paper = await open('light');
  await enter(paper);
  await paper.getByRole('button', { name: 'Fit' }).click();
  await paper.locator('.beat-ruler').click({ position: { x: 120, y: 15 } });
  await paper.getByRole('button', { name: 'Play' }).click();
  await paper.waitForTimeout(2500);
  await show(paper, 'timeline');
  const openEffect = async (page: Page, strip: string, effect: string) => {
    await page.locator('.member-name').getByText(strip, { exact: true }).click();
    await page.getByRole('button', { name: effect, exact: true }).click();
    await page.waitForTimeout(1500);
  };
  const delay = async (page: Page) => {
    await openEffect(page, 'Throws across the harbour', 'Delay');
    await page.getByRole('img', { name: /Echogram/ }).waitFor();
    await page.getByRole('button', { name: 'Flow', exact: true }).click();
    await page.waitForTimeout(1500);
  };
  /** Pictures of the start page, from the demo: `tail` is added to their names. */
  const startPictures = async (page: Page, tail: string) => {
    const picture = async (name: string, x: number, y: number, width: number) => {
      const clip = { x, y, width, height: width * 0.4 };
      await page.screenshot({ path: `public/start/${name}${tail}.png`, clip });
    };
    await page.getByRole('button', { name: /^Clip into the flood/ }).click();
    for (let n = 0; n < 4; n++) await page.getByRole('button', { name: 'Zoom in' }).click();
    await page.waitForTimeout(1200);
    await page.getByRole('button', { name: /^Clip into the flood/ }).scrollIntoViewIfNeeded();
    const swell = (await page.getByRole('button', { name: /^Clip into the flood/ }).boundingBox())!;
    await picture('swell', swell.x - 20, swell.y - 66, 360);
    await delay(page);
    const echoes = (await page.getByRole('img', { name: /Echogram/ }).boundingBox())!;
    await picture('echoes', echoes.x, echoes.y + 1, 455);
    await openEffect(page, 'Tide hall', 'Reverb');
    const decay = page.getByRole('img', { name: /Decay by octave.*1 kHz \d/ });
    await decay.waitFor();
    await page.waitForTimeout(800);
    const room = (await decay.boundingBox())!;
    await picture('room', room.x, room.y, Math.max(room.width, room.height / 0.4));
  };

  /** The demo's own stage: the organ and its hall go round, others stand about. */
  const onStage = async (page: Page) => {
    await page.getByRole('button', { name: 'Stage', exact: true }).click();
    await page.locator('.thing').filter({ hasText: 'Reed organ' }).focus();
    await page.keyboard.press('Enter');
    await page
      .getByRole('button', { name: 'Play', exact: true })
      .or(page.getByRole('button', { name: 'Stop', exact: true }))
      .first()
      .focus();
    if ((await page.getByRole('button', { name: 'Stop', exact: true }).count()) === 0)
      await page.keyboard.press('Enter');
    await page.waitForTimeout(5000);
  };

  await delay(paper);
  await show(paper, 'effect');
  await paper.getByRole('button', { name: 'Modulators' }).click();
  await paper.getByRole('button', { name: 'Open Slow tide' }).click();
  await paper.waitForTimeout(600);
  await show(paper, 'modulators');
  await paper.getByRole('button', { name: 'Close modulators' }).click();
  await openEffect(paper, 'Tide hall', 'Reverb');
  await paper.getByRole('img', { name: /Decay by octave.*1 kHz \d/ }).waitFor();
  await show(paper, 'reverb');
  await openEffect(paper, 'Harbour announcer', 'Convolution');
  await paper.getByRole('img', { name: /Response of the effect/ }).waitFor();
  await show(paper, 'convolution');
  await paper.locator('.member-name').getByText('Lamp keeper', { exact: true }).click();
  await paper.getByRole('button', { name: 'Equalizer', exact: true }).click();
  await paper.getByRole('button', { name: /^Band 4/ }).click();
  await paper.waitForTimeout(3800);
  await show(paper, 'equalizer');
  await paper.getByRole('button', { name: 'Routing', exact: true }).click();
  await paper.waitForTimeout(2500);
  await show(paper, 'routing');
  await paper.getByRole('button', { name: 'Timeline', exact: true }).click();
  await paper.getByRole('button', { name: 'Stop', exact: true }).click();
  await paper.getByRole('button', { name: 'Fit' }).click();
  await paper.locator('.beat-ruler').click({ position: { x: 420, y: 15 } });
  await paper
    .getByRole('button', { name: /drop-out/ })
    .click({ timeout: 1000 })
    .catch(() => {});
  await paper.getByRole('button', { name: /^Clip into the flood/ }).click();
  await paper.waitForTimeout(600);
  await show(paper, 'swells');
  await paper.locator('.member-name').getByText('Lamp keeper', { exact: true }).click();
  await paper.locator('.auto-lane-name').first().click();
  await paper.keyboard.press('Tab');
  await paper.locator('.auto-lane svg').first().focus();
  await paper.keyboard.press(']');
  await paper.keyboard.press(']');
  await show(paper, 'automation');
  await paper.locator('.member-name').filter({ hasText: 'Echoes under' }).click();
  await paper.getByRole('button', { name: 'Compare', exact: true }).click();
  await paper.waitForTimeout(2500);
  await show(paper, 'compare');
  await paper.getByRole('button', { name: 'Timeline', exact: true }).click();
  await paper.getByRole('button', { name: 'Recipes' }).click();
  await paper.waitForTimeout(900);
  await show(paper, 'recipes');
  await paper.getByRole('button', { name: 'Close recipes' }).click();
  /** Adds an effect to a strip and hears it there. */
  const addTo = async (strip: string, effect: string) => {
    await paper.locator('.member-name').filter({ hasText: strip }).click();
    await paper.getByRole('button', { name: 'effect', exact: true }).click();
    await paper.getByLabel('Search effects').fill(effect);
    await paper.keyboard.press('Enter');
    await paper.getByRole('button', { name: 'Effect', exact: true }).click();
    await paper.locator('.beat-ruler').waitFor({ state: 'detached' });
  };
  /** Plays from a bar on, with an effect large. */
  const hear = async (bar: string, strip: string, effect: string) => {
    await paper.getByRole('button', { name: 'Timeline', exact: true }).click();
    const place = (await paper.locator('.beat-ruler text').getByText(bar, { exact: true }).boundingBox())!;
    await paper.mouse.click(place.x, place.y + 12);
    await openEffect(paper, strip, effect);
    await paper.getByRole('button', { name: 'Play' }).click();
  };
  await paper.reload();
  await paper.locator('.loading-sounds').waitFor({ state: 'detached', timeout: 30000 });
  await hear('16', 'Beside the lamp keeper', 'Harmonies');
  await paper.waitForTimeout(6200);
  await show(paper, 'harmony');
  await paper.getByRole('button', { name: 'Stop', exact: true }).click();
  await hear('13', 'Words in the water', 'Vocoder');
  await paper.waitForTimeout(3300);
  await show(paper, 'vocoder');
  await paper.getByRole('button', { name: 'Stop', exact: true }).click();
  await paper.getByRole('button', { name: 'Timeline', exact: true }).click();
  await paper.getByRole('button', { name: /^Clip slow tide/ }).click();
  await paper.getByRole('button', { name: 'Pitch', exact: true }).click();
  await paper.locator('.member-name').getByText('Words in the water', { exact: true }).click();
  await paper.getByRole('button', { name: 'Notes', exact: true }).click();
  await paper.getByRole('button', { name: 'Keyboard', exact: true }).click();
  await paper.locator('.timeline-scroll').evaluate((view) => view.scrollTo(0, 0));
  await paper.waitForTimeout(1500);
  await show(paper, 'notes');
  await paper.getByRole('button', { name: 'Keyboard', exact: true }).click();
  await paper.getByRole('button', { name: 'Close the notes' }).click();
  await paper.getByRole('button', { name: 'Play' }).click();
  await addTo('Reed organ', 'middle');
  await paper.getByRole('button', { name: /^Presets of Middle/ }).click();
  await paper.getByRole('button', { name: /^Widen only the low mids/ }).click();
  await paper.getByRole('button', { name: /^Presets of Middle/ }).click();
  await paper.waitForTimeout(3000);
  await show(paper, 'midside');
  await paper.getByRole('button', { name: 'To the start' }).click();
  await onStage(paper);
  await show(paper, 'stage');
  await paper.keyboard.press('5');
  await paper.getByRole('button', { name: 'About listening places' }).click();
  await paper.waitForTimeout(1500);
  await show(paper, 'listening');
  await paper.close();

  const night = await open('dark');
  await enter(night);
  await night.getByRole('button', { name: 'Fit' }).click();
  await night.getByRole('button', { name: 'Play' }).click();
  await night.waitForTimeout(2500);
  await show(night, 'timeline-night');
  await night.close();

  for (const [colorScheme, tail] of [
    ['light', ''],
    ['dark', '-night'],
  ] as const) {
    const page = await browser.newPage({
      viewport: { width: 1280, height: 800 },
      colorScheme,
      deviceScaleFactor: 2,
    });
    await page.goto(BASE);
    await enter(page);
    await startPictures(page, tail);
    await page.close();
  }
  const start = await open('light');
  await start.locator('.session-list').waitFor();
  await start.waitForTimeout(600);
  await show(start, 'start');
  await start.close();

  const times: { shown: number; sound: number }[] = [];
  for (let run = 0; run < 5; run++) {
    const page = await open('light');
    await page.getByRole('button', { name: 'Open the demo' }).waitFor();
    times.push(await page.evaluate(openAndPlay));
    await page.close();
  }
  times.sort((a, b) => a.sound - b.sound);
  const [best] = times;
  const playing = await open('light');
  await enter(playing);
  await playing.getByRole('button', { name: 'Play' }).click();
  const frames: string[] = [];
  for (const view of ['Timeline', 'Routing', 'Effect', 'Compare']) {
    await playing.getByRole('navigation', { name: 'Views' }).getByRole('button', { name: view }).click();
    await playing.waitForTimeout(1500);
    const apart = await playing.evaluate(framesApart, 4000);
    frames.push(`${view} ${apart.median.toFixed(1)} (${apart.late.toFixed(1)})`);
  }
  await playing.close();
  const seconds = (ms: number) => (ms / 1000).toFixed(1);
  const line = `\n## In the browser\n\nThe demo is opened and Play is pressed as soon as it is there, headless Chromium on this machine, the best of ${times.length}: Play is there after ${seconds(best!.shown)} s, its first sound after ${seconds(best!.sound)} s (aim: 1.5 s).\n\nMilliseconds from frame to frame while the demo plays, without a graphics card, the median and 95 %: ${frames.join(', ')}.\n`;
  const report = readFileSync('docs/benchmarks.md', 'utf8');
  // The section is put in the place of its last version; what stands around it stays.
  writeFileSync(
    'docs/benchmarks.md',
    report.replace(/\n## In the browser\n[^]*?(?=\n## |$)/, () => line),
  );
  process.stdout.write(`first sound after ${times.map(({ sound }) => seconds(sound)).join(', ')} s\n`);
} finally {
  await browser.close();
  server.kill();
  rmSync(data, { recursive: true, force: true });
}
