import { readFile } from 'node:fs/promises';
import { expect } from '@playwright/test';
import { test } from './server';
import { readWav } from '@/core/formats/wav';
import {
  addEffect,
  bringIn,
  clickFile,
  drag,
  framesPass,
  loaded,
  meterWidth,
  newSession,
  openDemo,
  saved,
  typeValue,
  voiceFile,
} from './studio';

test('the demo opens from the list, plays, moves its meters and stops', async ({ page }) => {
  await openDemo(page);
  await expect(page.locator('[data-track]')).toHaveCount(9);
  await page.getByRole('button', { name: 'Play' }).click();
  const position = page.getByLabel('Position');
  await expect(position).not.toHaveText(/^1\.1/, { timeout: 15000 });
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(50);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  const stopped = await position.textContent();
  await framesPass(page, 20);
  expect(await position.textContent()).toBe(stopped);
});

test('a voice is dropped in, gets an echo in time, is dragged while it plays, bounced, and is all there after a reload', async ({
  page,
}) => {
  await newSession(page, 'Quay voice');
  const data = await page.evaluateHandle(
    (bytes) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([new Uint8Array(bytes)], 'keeper.wav', { type: 'audio/wav' }));
      return transfer;
    },
    [...voiceFile()],
  );
  await page.locator('.timeline').dispatchEvent('drop', { dataTransfer: data, clientX: 205, clientY: 300 });
  // Other tests bring in the same sound as voice.wav: it is kept once, and has the name it came under here.
  const clip = page.getByRole('button', { name: /^Clip keeper/ });
  await expect(clip).toBeVisible({ timeout: 30000 });
  await loaded(page);

  const tempo = page.getByLabel('Tempo in beats a minute');
  await tempo.fill('84');
  await tempo.press('Enter');
  await addEffect(page, 'Delay');
  const chain = page.getByRole('region', { name: /signal path/i });
  await typeValue(chain.getByRole('slider', { name: 'Delay Left' }), '1/8d');
  await expect(chain.getByText('1/8 dotted, 536 ms')).toBeVisible();

  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  const echogram = page.getByRole('img', { name: /Echogram from the engine/ });
  await expect(echogram).toHaveAttribute('aria-label', /the first after 536 ms, 1\/8 dotted/);

  await page.getByRole('button', { name: 'Play' }).click();
  const feedback = page.getByRole('group', { name: 'Controls of Delay' }).getByRole('slider', { name: 'Feedback' });
  await drag(page, feedback, 60, 0);
  await expect(feedback).not.toHaveAttribute('aria-valuenow', '30');
  const fed = Number(await feedback.getAttribute('aria-valuenow'));
  await expect(echogram).not.toHaveAttribute('aria-label', /: 5 arrivals/);
  await page.getByRole('button', { name: 'Stop' }).click();

  await page.getByRole('button', { name: /^Undo: Delay: Feedback/ }).click();
  await expect(feedback).toHaveAttribute('aria-valuenow', '30');
  await page.getByRole('button', { name: /^Redo: Delay: Feedback/ }).click();
  await expect(feedback).toHaveAttribute('aria-valuenow', String(fed));
  await saved(page);

  await page.reload();
  await loaded(page);
  await expect(clip).toBeVisible();
  await expect(chain.getByText('1/8 dotted, 536 ms')).toBeVisible();
  await expect(tempo).toHaveValue('84');
  await page.getByRole('button', { name: /^Undo: Delay: Feedback/ }).click();
  await expect(chain.getByRole('slider', { name: 'Delay Feedback' })).toHaveAttribute('aria-valuenow', '30');
});

test('a bounce puts the echo on the frame the tempo says, with exact levels', async ({ page }) => {
  await newSession(page, 'Frame check');
  await bringIn(page, 'click.wav', clickFile());
  const tempo = page.getByLabel('Tempo in beats a minute');
  await tempo.fill('84');
  await tempo.press('Enter');
  await addEffect(page, 'Delay');
  const chain = page.getByRole('region', { name: /signal path/i });
  await typeValue(chain.getByRole('slider', { name: 'Delay Left' }), '1/8d');
  await typeValue(chain.getByRole('slider', { name: 'Delay Feedback' }), '50');
  await typeValue(chain.getByRole('slider', { name: 'Delay Mix' }), '50');
  await page.getByRole('button', { name: 'Bounce' }).click();
  await page.getByLabel('Format').selectOption('32f');
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 60000 }),
    page.getByRole('dialog').getByRole('button', { name: 'Bounce' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('Frame check.wav');
  const sound = readWav(new Uint8Array(await readFile(await download.path())), 'bounce');
  const left = sound.channels[0]!;
  const sounding = [...left.keys()].filter((frame) => Math.abs(left[frame]!) > 1e-4).slice(0, 3);
  expect(sounding).toEqual([0, 25714, 51428]);
  expect(left[0]).toBeCloseTo(0.5 * Math.SQRT1_2, 6);
  expect(left[25714]).toBeCloseTo(0.5 * Math.SQRT1_2, 6);
  expect(left[51428]).toBeCloseTo(0.25 * Math.SQRT1_2, 6);
});

test('a bounce can be cancelled and leaves nothing behind, and one that a reload breaks off begins again', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Bounce' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Tail').selectOption('seconds');
  await dialog.getByLabel('Tail in seconds').fill('90');
  await expect(dialog.getByRole('alert')).toContainText('0 to 60 s');
  await expect(dialog.getByRole('button', { name: 'Bounce' })).toBeDisabled();
  await dialog.getByLabel('Tail in seconds').fill('60');
  await dialog.getByRole('button', { name: 'Bounce' }).click();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(dialog.getByRole('button', { name: 'Bounce' })).toBeEnabled();
  await expect(dialog.getByRole('link')).toHaveCount(0);
  await dialog.getByLabel('Range').selectOption('loop');
  await dialog.locator('select[name=tail]').selectOption('cut');
  await dialog.getByRole('button', { name: 'Bounce' }).click();
  await dialog.getByRole('button', { name: 'Go on working' }).click();
  const bounces = page.getByRole('list', { name: 'Bounces' });
  await expect(bounces.getByRole('listitem')).toHaveCount(1);
  const asked: string[] = [];
  page.on('dialog', (question) => {
    asked.push(question.type());
    void question.accept();
  });
  await page.reload();
  expect(asked).toEqual(['beforeunload']);
  await loaded(page);
  await page.getByRole('button', { name: 'Library', exact: true }).click();
  await expect(bounces).toContainText(/done here in/, { timeout: 60000 });
  const button = bounces.getByRole('button', { name: 'Download' });
  const [download] = await Promise.all([page.waitForEvent('download'), button.click()]);
  expect(readWav(new Uint8Array(await readFile(await download.path())), 'again').channels).toHaveLength(2);
  await bounces.getByRole('button', { name: /^Remove/ }).click();
  await expect(bounces).toHaveCount(0);
});
