import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { loaded, meterWidth, saved } from './studio';

const chain = (page: Page) => page.getByRole('region', { name: /signal path/i });

/** What is heard of the bounce is no silence. */
async function finish(page: Page): Promise<void> {
  await expect(page.getByRole('link', { name: /^Save .* again$/ })).toBeVisible({ timeout: 60000 });
  await expect(page.getByRole('dialog')).toContainText('LUFS');
}

test('a newcomer gets from nothing to a bounce by mouse', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Begin' }).click();
  await loaded(page);
  await page.getByRole('button', { name: 'Show me around' }).click();
  // The tour does it all once: a sound comes in, plays, is turned down, and stands on the stage.
  const next = (title: string) =>
    page.locator('.tour').filter({ hasText: title }).getByRole('button', { name: 'Next' }).click();
  await next('The timeline');
  await expect(page.getByRole('button', { name: /^Clip lamp-keeper/ })).toBeVisible();
  await next('The cast');
  await next('Listening');
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(30);
  await next('The signal path');
  await expect(chain(page).getByRole('slider', { name: / Level$/ })).toHaveAttribute('aria-valuenow', '-6');
  await next('Animate it');
  await next('Five views');
  await next('The stage');
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.locator('.thing')).toHaveCount(1);
  await page.keyboard.press('Space');
  for (let step = 0; step < 3; step++) await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'Timeline', exact: true }).click();
  await page.getByRole('button', { name: 'lamp keeper', exact: true }).click();
  await loaded(page);
  await page.getByRole('button', { name: 'effect', exact: true }).click();
  await page.getByRole('button', { name: /^Delay/ }).click();
  await expect(page.getByRole('region', { name: 'Delay' })).toBeVisible();
  await page.getByRole('button', { name: 'effect', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Used lately' }).getByRole('button', { name: /^Delay/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await chain(page).getByRole('button', { name: 'send', exact: true }).click();
  await page.getByRole('button', { name: 'Reverb', exact: true }).click();
  await expect(page.locator('.member-name').filter({ hasText: 'Reverb' })).toBeVisible();
  await chain(page).getByRole('slider', { name: / Pan$/ }).hover();
  await chain(page).getByRole('button', { name: 'Pan: automate it with a lane' }).click();
  const lane = page.getByRole('group', { name: /^Lane of Pan/ });
  await lane.dblclick({ position: { x: 200, y: 20 } });
  await expect(lane).toHaveAccessibleName(/^Lane of Pan on .*, 2 points$/);
  await saved(page);
  await page.getByRole('button', { name: 'Bounce' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Bounce' }).click();
  await finish(page);
});

test('the same by keyboard alone', async ({ page }) => {
  await page.goto('/');
  const press = async (name: string | RegExp) => {
    await page.getByRole('button', { name }).first().focus();
    await page.keyboard.press('Enter');
  };
  await page.getByLabel('Name', { exact: true }).focus();
  await page.keyboard.type('By keys');
  await page.keyboard.press('Enter');
  await loaded(page);
  await press('harp');
  await loaded(page);
  const find = async (text: string) => {
    await page.keyboard.press('Control+k');
    await page.getByRole('combobox', { name: 'Find' }).waitFor();
    await page.keyboard.type(text);
    await page.keyboard.press('Enter');
  };
  await find('add reverb');
  await expect(page.getByRole('region', { name: 'Reverb' })).toBeVisible();
  await find('timeline');
  await press('send');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.locator('.member')).toHaveCount(3);
  await find('harp');
  await chain(page).getByRole('slider', { name: / Pan$/ }).focus();
  await press('Pan: automate it with a lane');
  const lane = page.getByRole('group', { name: /^Lane of Pan/ });
  await lane.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('set a point at the playhead');
  await page.keyboard.press('Escape');
  await saved(page);
  await find('bounce');
  const dialog = page.getByRole('dialog', { name: /^Bounce/ });
  await dialog.getByRole('button', { name: 'Bounce' }).focus();
  await page.keyboard.press('Enter');
  await finish(page);
});
