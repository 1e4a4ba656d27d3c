import { expect, test, type Page } from '@playwright/test';
import { addEffect, bringIn, newSession, saved, voiceFile } from './studio';

const chain = (page: Page) => page.locator('.chain');
const figures = (page: Page) => page.getByLabel('Measured on the engine’s answer to a click');

async function openLarge(page: Page, effect: string): Promise<void> {
  await chain(page).getByRole('button', { name: effect, exact: true }).click();
  await expect(page.getByRole('heading', { name: effect, level: 2 })).toBeVisible();
}

test('a room is set by its decay, its plan and its parts, by hand and by keyboard', async ({ page }) => {
  await newSession(page, 'A room of its own');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Reverb');
  await openLarge(page, 'Reverb');
  await expect(page.getByRole('img', { name: /Decay by octave.*1 kHz (1\.9|2\.0)\d s/ })).toBeVisible({
    timeout: 20000,
  });
  await expect(figures(page)).toContainText(/Decay, T30(1\.\d+|2\.\d+) s/);

  // A point up by keys: the wish moves, and the engine's own decay after it.
  const point = page.getByRole('slider', { name: 'Decay point 3 of 4' });
  await point.focus();
  const before = Number(await point.getAttribute('aria-valuenow'));
  for (let n = 0; n < 10; n++) await page.keyboard.press('ArrowUp');
  await expect.poll(async () => Number(await point.getAttribute('aria-valuenow'))).toBeGreaterThan(1.3 * before);
  await expect(page.getByRole('img', { name: /Decay by octave.*4 kHz 2\.\d\d s/ })).toBeVisible({ timeout: 20000 });

  // The same by dragging, as one step.
  const box = (await point.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x, box.y + 90, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => Number(await point.getAttribute('aria-valuenow'))).toBeLessThan(1.3 * before);
  await page.getByRole('button', { name: /^Undo: Reverb: decay by frequency/ }).click();
  await expect.poll(async () => Number(await point.getAttribute('aria-valuenow'))).toBeGreaterThan(1.3 * before);

  // A source at the left wall changes what is measured; the tail alone has no first reflections.
  const source = page.getByRole('slider', { name: 'Source in the room' });
  await source.focus();
  for (let n = 0; n < 8; n++) await page.keyboard.press('ArrowLeft');
  await expect(source).toHaveAttribute('aria-valuetext', '24 % across, 25 % along');
  const clarity = await figures(page).getByText('Clarity C50').locator('..').textContent();
  await page.getByRole('button', { name: 'Tail alone' }).click();
  await expect
    .poll(async () => figures(page).getByText('Clarity C50').locator('..').textContent(), { timeout: 20000 })
    .not.toBe(clarity);
  await saved(page);
});

test('an impulse is chosen by what it is, prepared beside, and then heard', async ({ page }) => {
  await newSession(page, 'Through a place');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Convolution');
  await openLarge(page, 'Convolution');
  await page.getByRole('button', { name: 'Washroom', exact: true }).click();
  await expect(page.getByText('Tiles on the walls', { exact: false })).toBeVisible();
  await expect(page.getByRole('img', { name: /Decay by octave.*1 kHz [1-4]\.\d\d s/ })).toBeVisible({ timeout: 40000 });
  await expect(chain(page).getByText('being prepared', { exact: false })).toHaveCount(0, { timeout: 40000 });
  // A thing rather than a place is told by its tone.
  await page.getByRole('button', { name: 'Telephone', exact: true }).click();
  await expect(page.getByRole('group', { name: /Response of the effect/ })).toBeVisible({ timeout: 20000 });
  await page.getByRole('button', { name: /^Undo: Convolution: Telephone/ }).click();
  await expect(page.getByRole('button', { name: 'Washroom', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await saved(page);
});
