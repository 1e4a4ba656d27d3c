import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { writeWav } from '@/core/formats/wav';
import { addEffect, bounce, bringIn, newSession, openDemo, saved, typeValue } from './studio';

const RATE = 48000;
/** Words that begin at these seconds. */
const WORDS = [0.5, 1.25, 2.1];

/** Three sung words with an offset of a tenth and rumble at 30 Hz. */
function wordsFile(flawed = false): Buffer {
  const samples = Float32Array.from({ length: 3 * RATE }, (_, n) => {
    const t = n / RATE;
    let x = flawed ? 0.1 + 0.1 * Math.sin(2 * Math.PI * 30 * t) : 0;
    for (const from of WORDS) {
      const into = t - from;
      if (into < 0 || into > 0.5) continue;
      const level = 0.4 * Math.min(1, into / 0.004) * Math.min(1, (0.5 - into) / 0.2);
      for (let k = 1; k <= 20; k++) x += (level * Math.sin(2 * Math.PI * 200 * k * into)) / k;
    }
    return 0.5 * x;
  });
  return Buffer.from(writeWav({ sampleRateHz: RATE, channels: [samples] }, '24'));
}

const clip = (page: Page, name: string) => page.getByRole('button', { name: new RegExp(`^Clip ${name}`) });
const largest = (sound: Float32Array, from: number, to: number) =>
  sound.subarray(Math.round(from * RATE), Math.round(to * RATE)).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const swell = (page: Page) => page.getByRole('group', { name: /^Swell into/ });
const upToDate = (page: Page) => expect(swell(page)).toContainText('up to date', { timeout: 30000 });

test('a swell is made in three actions and lands on its word in the bounce', async ({ page }) => {
  await newSession(page, 'Into the word');
  await bringIn(page, 'words.wav', wordsFile());
  await page.getByRole('button', { name: 'Fit' }).click();

  await clip(page, 'words').click({ position: { x: 40, y: 30 } });
  await page.getByRole('button', { name: 'Word 2 of words' }).click();
  await page.getByRole('button', { name: 'Make a swell into this word' }).click();
  await upToDate(page);

  const voice = page.locator('.member').filter({ has: page.getByText('words', { exact: true }) });
  await voice.getByRole('button', { name: /^Mute/ }).click();
  const [alone] = await bounce(page);
  const last = alone!.findLastIndex((x) => x !== 0) / RATE;
  expect(Math.abs(last - WORDS[1]!)).toBeLessThan(0.001 + 0.005);
  // What the mark says and what is heard are the same.
  const landing = Number(
    await page.getByRole('slider', { name: 'Landing of a swell in words' }).getAttribute('aria-valuenow'),
  );
  expect(Math.abs(last - landing)).toBeLessThan(0.001);
  expect(Math.abs(landing - WORDS[1]!)).toBeLessThan(0.015);
  expect(largest(alone!, landing - 0.05, landing)).toBeGreaterThan(4 * largest(alone!, landing - 1, landing - 0.9));

  // The landing is moved by a thousandth, the swell goes along; a later word, and undo.
  await page.getByRole('slider', { name: 'Landing of a swell in words' }).press('ArrowRight');
  await clip(page, 'swell into words').click();
  await upToDate(page);
  const [moved] = await bounce(page);
  expect(moved!.findLastIndex((x) => x !== 0) / RATE - last).toBeCloseTo(0.001, 4);
  await page.getByRole('button', { name: 'Undo: Move a landing' }).click();
  await saved(page);
});

test('a swell follows its space and its length, grows by its edge, is unlinked and comes back after a reload', async ({
  page,
}) => {
  await newSession(page, 'Spaces of swells');
  await bringIn(page, 'words.wav', wordsFile());
  await clip(page, 'words').click({ position: { x: 40, y: 30 } });
  await page.getByRole('button', { name: 'Word 3 of words' }).click();
  await page.getByRole('button', { name: 'Make a swell into this word' }).click();
  await upToDate(page);
  const grown = clip(page, 'swell into words');
  const lengthOf = async () => Number(/, ([\d.]+) seconds/.exec((await grown.getAttribute('aria-label'))!)![1]);
  const long = await lengthOf();
  await page.getByLabel('Space of the swell').selectOption({ label: 'Small and bright' });
  await expect.poll(lengthOf, { timeout: 20000 }).toBeLessThan(long);
  await page.getByLabel('Whole tail').uncheck();
  await typeValue(page.getByRole('slider', { name: 'Swell Length' }), '0.4s');
  await expect.poll(lengthOf, { timeout: 20000 }).toBe(0.4);

  // A space of its own becomes a return, whose effects the swell then follows.
  await page.getByRole('button', { name: 'Open space' }).click();
  await expect(page.getByRole('heading', { name: 'Reverb', level: 2 })).toBeVisible();
  await page.getByRole('button', { name: 'Timeline' }).click();
  await grown.click();
  await expect(page.getByLabel('Space of the swell')).toHaveValue(/^return /);
  await page.getByRole('button', { name: 'Phrase', exact: true }).click();
  await upToDate(page);
  await expect.poll(lengthOf, { timeout: 20000 }).toBeCloseTo(0.4 + 0.9, 1);
  await page.getByRole('button', { name: 'Unlink' }).click();
  await expect(swell(page)).toHaveCount(0);
  await saved(page);
  await page.reload();
  await expect(grown).toBeVisible({ timeout: 30000 });
});

test('words are chosen by their marks however close these lie, and a swell without room gets some', async ({
  page,
}) => {
  await newSession(page, 'No room');
  await bringIn(page, 'words.wav', wordsFile());
  await clip(page, 'words').click({ position: { x: 40, y: 30 } });
  const mark = (n: number) => page.getByRole('button', { name: `Word ${n} of words` });
  await expect(mark(3)).toBeVisible({ timeout: 20000 });
  for (let step = 0; step < 30 && (await clip(page, 'words').boundingBox())!.width > 50; step++) {
    await page.getByRole('button', { name: 'Zoom out' }).click();
  }
  for (const n of [1, 2, 3, 1]) {
    const { x, y, width, height } = (await mark(n).boundingBox())!;
    await page.mouse.click(x + width / 2, y + height / 2);
    await expect(mark(n)).toHaveAttribute('aria-pressed', 'true');
    await expect(page.getByLabel('Word of words')).toHaveValue(String(n - 1));
  }
  await page.getByLabel('Word of words').selectOption({ label: '2, at 1.25 s' });
  await expect(mark(2)).toHaveAttribute('aria-pressed', 'true');
  await page.getByLabel('Word of words').selectOption({ index: 1 });

  await page.getByRole('button', { name: 'Make a swell into this word' }).click();
  await upToDate(page);
  const room = swell(page).getByText('its beginning is cut');
  await expect(room).toContainText('there are 0.50 s before its landing');
  await page.getByRole('button', { name: 'Make it 0.50 s long' }).click();
  await expect(room).toHaveCount(0, { timeout: 20000 });
  await page.getByRole('button', { name: /^Undo: Swell into words: length/ }).click();
  await expect(room).toBeVisible({ timeout: 20000 });
  await swell(page)
    .getByRole('button', { name: /^Insert .* at the start/ })
    .click();
  await expect(room).toHaveCount(0);
  const start = Number(/from beat ([\d.]+)/.exec((await clip(page, 'words').getAttribute('aria-label'))!)![1]);
  expect(start).toBeGreaterThan(4);
  const grown = (await clip(page, 'swell into words').getAttribute('aria-label'))!;
  expect(Number(/from beat ([\d.]+)/.exec(grown)![1])).toBeGreaterThan(1);
  await page.getByRole('button', { name: /^Undo: Insert/ }).click();
  await expect(room).toBeVisible();
});

test('a clip is reversed, muted, faded, normalised, freed of offset and rumble, and printed', async ({ page }) => {
  await newSession(page, 'Repairs');
  await bringIn(page, 'words.wav', wordsFile(true));
  await page.getByRole('button', { name: 'Fit' }).click();
  await clip(page, 'words').click({ position: { x: 40, y: 30 } });
  await page.getByRole('button', { name: 'Fix' }).click();
  await page.getByLabel('Normalise to').selectOption('peak');
  await page.getByRole('button', { name: 'Normalise', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Undo: Normalise words' })).toBeEnabled({ timeout: 20000 });
  await page.getByLabel('Remove the offset (DC)').check();
  await page.getByLabel('Cut rumble').check();
  await expect(page.getByRole('img', { name: /before and after its repair/ })).toBeVisible({ timeout: 30000 });
  await page.keyboard.press('Escape');
  await expect(clip(page, 'words')).not.toHaveAttribute('aria-label', /making|date/);
  const [clean] = await bounce(page);
  expect(largest(clean!, 0.3, 0.45)).toBeLessThan(0.004);
  await page.getByRole('button', { name: 'Reverse' }).click();
  const [backwards] = await bounce(page);
  expect(largest(backwards!, 3 - WORDS[2]! - 0.45, 3 - WORDS[2]!)).toBeGreaterThan(0.2);
  expect(largest(backwards!, 3 - WORDS[0]! + 0.02, 2.9)).toBeLessThan(0.01);

  await addEffect(page, 'Delay');
  await clip(page, 'words').click({ position: { x: 40, y: 30 } });
  await page.getByRole('button', { name: 'Render this clip' }).click();
  await expect(clip(page, 'words, rendered')).toBeVisible({ timeout: 30000 });
  await expect(clip(page, 'words, from')).toHaveAttribute('aria-label', /muted/);
  await saved(page);
});

test('more than 10 MB of sound come in', async ({ page }) => {
  await openDemo(page);
  const frames = 4_000_000;
  const bytes = Buffer.from(writeWav({ sampleRateHz: RATE, channels: [new Float32Array(frames)] }, '32f'));
  const response = await page.request.post('/api/assets', {
    headers: { 'content-type': 'audio/wav', 'x-file-name': 'long.wav' },
    data: bytes,
  });
  const { asset } = (await response.json()) as { asset: { frames: number } };
  expect([response.status(), asset.frames]).toEqual([201, frames]);
});
