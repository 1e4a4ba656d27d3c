import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { bringIn, drag, meterWidth, newSession, playheadMoves, saved, typeValue, voiceFile } from './studio';

const chain = (page: Page) => page.getByRole('region', { name: /signal path/i });
const pan = (page: Page) => chain(page).getByRole('slider', { name: / Pan$/ });
const lane = (page: Page) => page.getByRole('group', { name: /^Lane of Pan/ });
const undo = (page: Page) => page.getByRole('button', { name: /^Undo/ }).click();

/** A session with a four-second clip and a lane for its track's pan. */
async function withLane(page: Page, name: string): Promise<void> {
  await newSession(page, name);
  await bringIn(page, 'voice.wav', voiceFile(4));
  for (let step = 0; step < 3; step++) await page.getByRole('button', { name: 'Zoom in' }).click();
  await pan(page).hover();
  await chain(page).getByRole('button', { name: 'Pan: automate it with a lane' }).click();
  await expect(lane(page)).toHaveAccessibleName(/^Lane of Pan on .*, one point$/);
}

test('a lane is made from a ruler; points are drawn, boxed, moved, typed, inverted and repeated', async ({ page }) => {
  await withLane(page, 'Lane');
  const box = (await lane(page).boundingBox())!;
  await lane(page).dblclick({ position: { x: 120, y: 14 } });
  await lane(page).dblclick({ position: { x: 220, y: 50 } });
  await expect(lane(page)).toHaveAccessibleName(/^Lane of Pan on .*, 3 points$/);
  await drag(page, lane(page), 200, 56, { x: 80, y: 4 });
  await expect(page.locator('.lane-point-chosen')).toHaveCount(2);
  await page.getByRole('button', { name: 'Invert' }).click();
  const points = page.locator('.auto-lane circle');
  await lane(page).focus();
  await page.keyboard.press('Control+a');
  await expect(page.locator('.lane-point-chosen')).toHaveCount(3);
  await page.keyboard.press('Escape');
  await page.keyboard.press(']');
  await page.getByLabel('Value of the chosen points').fill('40 left');
  await page.getByLabel('Value of the chosen points').press('Enter');
  await expect(page.locator('.auto-lane title').first()).toHaveText('40 left');
  await page.getByLabel('Value of the chosen points').fill('far out');
  await page.getByLabel('Value of the chosen points').press('Enter');
  await expect(page.locator('.lane-bar').getByRole('alert')).toContainText('100 left to 100 right');
  await lane(page).focus();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Repeat to loop end' }).click();
  await expect.poll(() => points.count()).toBeGreaterThan(5);
  await undo(page);
  await expect(points).toHaveCount(3);
  await page.getByRole('button', { name: 'Draw freehand' }).click();
  await drag(page, lane(page), 160, 30, { x: 60, y: 12 });
  await expect.poll(() => points.count()).toBeGreaterThan(4);
  expect(box.height).toBe(64);
  await saved(page);
  await page.reload();
  await page.locator('.member-name').first().waitFor();
  await page.locator('.member-name').filter({ hasText: 'voice' }).click();
  await expect.poll(() => points.count()).toBeGreaterThan(4);
});

test('shapes fill the loop; points are copied, pasted, cut and deleted by keyboard', async ({ page }) => {
  await withLane(page, 'Shapes');
  await page.locator('.auto-lane-name').click();
  await page.getByRole('button', { name: /Shapes/ }).click();
  await page.getByLabel('Length of a cycle').selectOption('1/2');
  await page.getByLabel('Lowest value').fill('30 left');
  await page.getByLabel('Highest value').fill('30 right');
  await page.getByRole('button', { name: 'Triangle', exact: true }).click();
  await page.keyboard.press('Escape');
  const points = page.locator('.auto-lane circle');
  await expect(points).toHaveCount(17);
  await lane(page).focus();
  await page.keyboard.press(']');
  await page.keyboard.press('Delete');
  await expect(points).toHaveCount(16);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+x');
  await expect(points).toHaveCount(0);
  await page.keyboard.press('Control+v');
  await expect(points).toHaveCount(16);
});

test('a ruler shows its lane moving, is overridden by hand and given back', async ({ page }) => {
  await withLane(page, 'Moving');
  await lane(page).dblclick({ position: { x: 300, y: 10 } });
  await expect(page.locator('.chain .ruler-range-on')).toHaveCount(1);
  await page.getByRole('button', { name: 'Play' }).click();
  const shown = chain(page)
    .locator('.ruler')
    .filter({ has: page.getByRole('slider', { name: / Pan$/ }) })
    .locator('.ruler-value');
  await expect(shown).toHaveText(/right/);
  const before = await shown.textContent();
  await expect(shown).not.toHaveText(before!);
  await page.keyboard.press('Space');
  await typeValue(pan(page), '25 left');
  await expect(pan(page)).toHaveAttribute('aria-valuetext', '25 left');
  await expect(page.getByText('suspended', { exact: true })).toBeVisible();
  await chain(page).getByRole('button', { name: 'Pan: lane suspended: resume it' }).click();
  await expect(page.getByText('suspended', { exact: true })).toHaveCount(0);
});

test('moving a ruler while playing writes a lane, as one step', async ({ page }) => {
  await newSession(page, 'Written');
  await bringIn(page, 'voice.wav', voiceFile(4));
  await page.getByRole('button', { name: 'Write automation' }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect(page.getByLabel('Position')).not.toHaveText(/^1\.1\.0/);
  const box = (await pan(page).boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 8);
  await page.mouse.down();
  for (let step = 0; step <= 20; step++) {
    await page.mouse.move(box.x + box.width / 2 + step * 4, box.y + 8);
    await playheadMoves(page);
  }
  await page.mouse.up();
  await page.keyboard.press('Space');
  await expect(lane(page)).toBeVisible();
  const points = await page.locator('.auto-lane circle').count();
  expect(points).toBeGreaterThan(1);
  expect(points).toBeLessThan(15);
  await expect(pan(page)).toHaveAttribute('aria-valuetext', 'centre');
  await undo(page);
  await expect(lane(page)).toHaveCount(0);
});

test('mute is automated, from its switch', async ({ page }) => {
  await newSession(page, 'Muted');
  await bringIn(page, 'voice.wav', voiceFile(4));
  await chain(page).getByRole('switch', { name: 'Mute of voice' }).hover();
  await chain(page).getByRole('button', { name: 'Mute of voice: automate it with a lane' }).click();
  const mute = page.getByRole('group', { name: /^Lane of Mute/ });
  await mute.dblclick({ position: { x: 60, y: 22 } });
  await expect(mute).toHaveAccessibleName(/^Lane of Mute on .*, 2 points$/);
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(40);
  await expect.poll(() => meterWidth(page)).toBeLessThan(3);
  await undo(page);
  await undo(page);
  await expect(mute).toHaveCount(0);
});
