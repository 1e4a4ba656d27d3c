import { expect } from '@playwright/test';
import { test } from './server';
import { addEffect, bounce, bringIn, newSession, saved, typeValue, voiceFile } from './studio';

const RATE = 48000;

test('a mono voice is deepened in the matrix of middle and sides, and its mono sum is what it was', async ({
  page,
}) => {
  await newSession(page, 'Depth');
  // Long enough for all that is done while it plays, on a slow machine too.
  await bringIn(page, 'voice.wav', voiceFile(35));
  const [before] = await bounce(page);
  await addEffect(page, 'Middle and sides');
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  const way = page.getByRole('region', { name: 'Mid to side', exact: true });
  await typeValue(way.getByRole('slider', { name: 'Mid to side', exact: true }), '-6');

  // At the same time on both sides it leans: that is said, of what is heard, and which way does it.
  await page.getByRole('button', { name: 'Play' }).click();
  const said = page.getByRole('status', { name: 'What this setting does to the field' });
  await expect(said).toContainText(/leans to the left by \d+\.\d dB: mid to side does it/, { timeout: 5000 });
  await expect(way).toHaveClass(/matrix-blamed/);
  await way.getByRole('button', { name: 'Invert mid to side' }).click();
  await expect(said).toContainText('leans to the right');
  await way.getByRole('button', { name: 'Invert mid to side' }).click();
  await typeValue(way.getByRole('slider', { name: 'Mid to side Delay' }), '17 ms');
  await expect(said).toContainText('No imbalance, hollow centre or mono loss.');
  await expect(page.getByRole('img', { name: /^Correlation by octave: .*Hz/ })).toBeVisible();
  await page.getByRole('button', { name: 'Stop' }).click();

  const [left, right] = await bounce(page);
  let [off, apart] = [0, 0];
  for (let n = 0; n < before!.length; n++) {
    off = Math.max(off, Math.abs(left![n]! + right![n]! - 2 * before![n]!));
    apart = Math.max(apart, Math.abs(left![n]! - right![n]!));
  }
  expect(off).toBeLessThan(1e-6);
  expect(apart).toBeGreaterThan(0.2);
  await page.reload();
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  await expect(way.getByRole('slider', { name: 'Mid to side Delay' })).toHaveAttribute('aria-valuetext', /17/);
  await way.getByRole('button', { name: 'Mute mid to side' }).click();
  await expect(way).toHaveClass(/matrix-silent/);
  await saved(page);
});

test('a doubler splits a sound, and says what the ear and what mono makes of it', async ({ page }) => {
  await newSession(page, 'Two of one');
  await bringIn(page, 'voice.wav', voiceFile(2));
  await addEffect(page, 'Doubler');
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  const controls = page.getByRole('group', { name: /^Controls of/ });
  await typeValue(controls.getByRole('slider', { name: 'Drift' }), '0');
  await typeValue(controls.getByRole('slider', { name: 'Time' }), '20 ms');
  await expect(page.getByText('cancels the sound first at 25 Hz')).toBeVisible();
  await expect(page.getByText('The ear fuses both')).toBeVisible({ timeout: 15000 });
  await typeValue(controls.getByRole('slider', { name: 'Time' }), '60 ms');
  await expect(page.getByText('Near the edge of what the ear fuses')).toBeVisible();
  const [left, right] = await bounce(page);
  const late = 0.06 * RATE;
  let [off, most] = [0, 0];
  for (let n = late; n < left!.length; n++) {
    off = Math.max(off, Math.abs(right![n]! - left![n - late]!));
    most = Math.max(most, Math.abs(left![n]!));
  }
  expect(most).toBeGreaterThan(0.2);
  expect(off).toBeLessThan(0.002 * most);
  await saved(page);
});
