import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { loaded, saved } from './studio';

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
  for (let step = 0; step < 5; step++) await page.getByRole('button', { name: 'Next' }).click();
  await page.getByRole('button', { name: 'Done' }).click();
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
  await chain(page).getByRole('slider', { name: 'Pan', exact: true }).hover();
  await chain(page).getByRole('button', { name: 'Pan: automate it with a lane' }).click();
  const lane = page.getByRole('group', { name: /^Lane of Pan/ });
  await lane.dblclick({ position: { x: 200, y: 20 } });
  await expect(lane).toHaveAccessibleName('Lane of Pan, 2 points');
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
  await chain(page).getByRole('slider', { name: 'Pan', exact: true }).focus();
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
