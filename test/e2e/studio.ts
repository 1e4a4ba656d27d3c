import { readFile } from 'node:fs/promises';
import { expect, type Locator, type Page } from '@playwright/test';
import { readWav, writeWav } from '@/core/formats/wav';

/** A made-up voice: syllables of a harmonic tone, one second long. */
export function voiceFile(seconds = 1): Buffer {
  const rate = 48000;
  const samples = Float32Array.from({ length: rate * seconds }, (_, n) => {
    const t = n / rate;
    const syllable = Math.max(0, Math.sin(2 * Math.PI * 3 * t)) ** 2;
    return 0.4 * syllable * (Math.sin(2 * Math.PI * 180 * t) + 0.5 * Math.sin(2 * Math.PI * 360 * t));
  });
  return Buffer.from(writeWav({ sampleRateHz: rate, channels: [samples] }, '24'));
}

/** A single full-scale sample. */
export function clickFile(): Buffer {
  const samples = new Float32Array(4800);
  samples[0] = 0.5;
  return Buffer.from(writeWav({ sampleRateHz: 48000, channels: [samples] }, '32f'));
}

export async function loaded(page: Page): Promise<void> {
  await expect(page.locator('.shell')).toBeVisible();
  await expect(page.locator('.loading-sounds')).toHaveCount(0, { timeout: 30000 });
}

export async function openDemo(page: Page): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await loaded(page);
}

/** A session of its own for a test, so that tests do not meet. */
export async function newSession(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin' }).click();
  await loaded(page);
}

export async function bringIn(page: Page, name: string, buffer: Buffer): Promise<void> {
  await page.getByLabel('Sound files').setInputFiles({ name, mimeType: 'audio/wav', buffer });
  await expect(page.getByRole('button', { name: new RegExp(`^Clip ${name.replace(/\..*/, '')}`) }).first()).toBeVisible(
    { timeout: 30000 },
  );
  await loaded(page);
}

export async function saved(page: Page): Promise<void> {
  await expect(page.locator('.save-state')).toHaveText('Saved');
}

export async function addEffect(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'effect', exact: true }).click();
  await page
    .locator('.effect-offer')
    .filter({ has: page.getByText(name, { exact: true }) })
    .first()
    .click();
}

/** Types a value over a ruler's figure in the chain or the effect view. */
export async function typeValue(slider: Locator, text: string): Promise<void> {
  await slider.focus();
  await slider.press('Enter');
  const input = slider.page().getByRole('textbox', { name: /type a value/ });
  await input.fill(text);
  await input.press('Enter');
}

/** Drags the middle of an element by some pixels in small steps. */
export async function drag(
  page: Page,
  target: Locator,
  dx: number,
  dy = 0,
  from?: { x: number; y: number },
): Promise<void> {
  const box = (await target.boundingBox())!;
  const x = box.x + (from?.x ?? box.width / 2);
  const y = box.y + (from?.y ?? box.height / 2);
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let step = 1; step <= 8; step++) await page.mouse.move(x + (dx * step) / 8, y + (dy * step) / 8);
  await page.mouse.up();
}

/** Width in pixels of the left bar of the main meter. */
export function meterWidth(page: Page): Promise<number> {
  return page
    .locator('.main-meter .level')
    .first()
    .evaluate((bar) => bar.getBoundingClientRect().width);
}

/**
 * Bounces the session to floating point; both sides of it, or all channels of a sound field.
 * @param delivery what it is made for, where that is not what the stage says
 */
export async function bounce(page: Page, delivery?: string): Promise<readonly Float32Array[]> {
  await page.getByRole('button', { name: 'Bounce', exact: true }).click();
  const dialog = page.getByRole('dialog', { name: /^Bounce/ });
  if (delivery) await dialog.getByLabel('Output').selectOption(delivery);
  await dialog.getByLabel('Format').selectOption('32f');
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 60000 }),
    dialog.getByRole('button', { name: 'Bounce' }).click(),
  ]);
  const bytes = new Uint8Array(await readFile(await download.path()));
  await dialog.getByRole('button', { name: 'Close' }).first().click();
  return readWav(bytes, 'bounce').channels;
}

const position = (page: Page) => page.getByLabel('Position');

/** Waits until the playhead, shown to a hundredth of a beat, has moved. */
export async function playheadMoves(page: Page): Promise<void> {
  const before = (await position(page).textContent())!;
  await expect(position(page)).not.toHaveText(before);
}

/** Waits until the playhead has come to the beat after the next. */
export async function beatPasses(page: Page): Promise<void> {
  await position(page).evaluate(async (element) => {
    const beat = () => element.textContent.split('.').slice(0, 2).join('.');
    for (let passed = 0, last = beat(); passed < 2;) {
      await new Promise(requestAnimationFrame);
      if (beat() === last) continue;
      last = beat();
      passed++;
    }
  });
}

/** Waits until the page has been drawn some times. */
export async function framesPass(page: Page, count: number): Promise<void> {
  await page.evaluate(async (frames) => {
    for (let n = 0; n < frames; n++) await new Promise(requestAnimationFrame);
  }, count);
}

/** Waits until all that opens or fades has come to its end. */
export async function animationsEnd(page: Page): Promise<void> {
  await page.evaluate(() => Promise.all(document.getAnimations().map(({ finished }) => finished.catch(() => {}))));
}
