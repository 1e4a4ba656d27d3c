import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { newSession, saved } from './studio';

/** Lets saves fail, as when the server is away. */
const away = '**/api/sessions/*';

/** Waits until the browser keeps a session with so many tracks as a draft. */
async function draftHolds(page: Page, tracks: number): Promise<void> {
  await page.waitForFunction(
    (count) =>
      new Promise<boolean>((resolve, reject) => {
        const opened = indexedDB.open('kinetikon');
        opened.onerror = () => reject(opened.error!);
        opened.onsuccess = () => {
          const all = opened.result.transaction('drafts').objectStore('drafts').getAll();
          all.onerror = () => reject(all.error!);
          all.onsuccess = () => {
            opened.result.close();
            const drafts = all.result as { document: { session: { trackIds: string[] } } }[];
            resolve(drafts.some(({ document }) => document.session.trackIds.length === count));
          };
        };
      }),
    tracks,
  );
}

test('parts are fetched ahead, so that all of them open without the server', async ({ page, context }) => {
  await newSession(page, 'Fetched ahead');
  await expect(page.locator('.shell[data-parts="fetched"]')).toBeVisible({ timeout: 60000 });
  await context.setOffline(true);
  for (const view of ['Stage', 'Routing', 'Compare', 'Effect', 'Timeline']) {
    await page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name: view }).click();
    await expect(page.getByRole('alert').filter({ hasText: 'could not be shown' })).toHaveCount(0);
  }
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Bounce', exact: true }).click();
  await expect(page.getByRole('dialog')).toBeVisible();
});

test('a part that cannot be fetched says so in its place, and comes when the server is back', async ({ page }) => {
  // Nothing is fetched ahead.
  await page.addInitScript(() => {
    window.requestIdleCallback = () => 0;
  });
  await newSession(page, 'Not fetched');
  await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await saved(page);
  await page.route('**/_next/static/**', (route) => route.abort());
  await page.getByRole('button', { name: 'Routing', exact: true }).click();
  const failure = page.getByRole('alert').filter({ hasText: 'The routing could not be shown' });
  await expect(failure).toBeVisible();
  await page.getByRole('button', { name: 'Bounce', exact: true }).click();
  const over = page.getByRole('alert').filter({ hasText: 'The bounce could not be shown' });
  await over.getByRole('button', { name: 'Close' }).click();
  await expect(over).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Track 1', exact: true })).toBeVisible();
  await page.unroute('**/_next/static/**');
  await failure.getByRole('button', { name: 'Try again' }).click();
  await expect(
    page.getByRole('button', { name: /^find a strip|Find a strip/ }).or(page.locator('.react-flow')),
  ).toBeVisible();
  await expect(failure).toHaveCount(0);
});

test('what could not be saved outlasts a reload and is saved afterwards', async ({ page }) => {
  await newSession(page, 'Kept here');
  await page.route(away, (route) => (route.request().method() === 'PUT' ? route.abort() : route.continue()));
  page.on('dialog', (dialog) => void dialog.accept());
  await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await expect(page.locator('.save-state')).toHaveText('Not saved, trying again');
  await draftHolds(page, 2);
  await page.reload();
  await expect(page.getByRole('alert').filter({ hasText: 'Changes that had not been saved are back' })).toBeVisible();
  await expect(page.locator('[data-track]')).toHaveCount(2);
  await page.unroute(away);
  await saved(page);
  await page.reload();
  await expect(page.locator('[data-track]')).toHaveCount(2);
  await expect(page.locator('.notice-problem')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo: Add a track' }).click();
  await expect(page.locator('[data-track]')).toHaveCount(1);
});

test('what could not be saved becomes a session of its own where another window saved meanwhile', async ({
  page,
  context,
}) => {
  await newSession(page, 'Overtaken');
  await page.route(away, (route) => (route.request().method() === 'PUT' ? route.abort() : route.continue()));
  page.on('dialog', (dialog) => void dialog.accept());
  await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await expect(page.locator('.save-state')).toHaveText('Not saved, trying again');
  await draftHolds(page, 1);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.locator('[data-track]')).toHaveCount(0);
  for (let turn = 0; turn < 3; turn++) await other.getByRole('button', { name: 'Add a track', exact: true }).click();
  await saved(other);
  await page.reload();
  await expect(page.getByRole('alert').filter({ hasText: '"Overtaken, unsaved"' })).toBeVisible();
  await expect(page.locator('[data-track]')).toHaveCount(3);
  await page.goto('/');
  await expect(page.getByText('Overtaken, unsaved')).toBeVisible();
});
