import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { faintFocus } from './focus';
import { addEffect, animationsEnd, newSession, openDemo, saved } from './studio';

const look = (page: Page) => page.locator('html');

/**
 * Accessibility faults in both looks; at night only colours differ.
 * @param part selector of what has changed since the last scan of this page; the whole page without one
 */
async function faults(page: Page, part?: string): Promise<string[]> {
  const scan = async (rules?: string) => {
    const builder = new AxeBuilder({ page }).options({ resultTypes: ['violations'] });
    if (part) builder.include(part);
    if (rules) builder.withRules(rules);
    return (await builder.analyze()).violations.map(
      ({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join('; ')}`,
    );
  };
  const onPaper = await scan();
  await page.emulateMedia({ colorScheme: 'dark' });
  await expect(look(page)).toHaveAttribute('data-theme', 'night');
  const atNight = await scan('color-contrast');
  await page.emulateMedia({ colorScheme: 'light' });
  await expect(look(page)).toHaveAttribute('data-theme', 'paper');
  return [...onPaper, ...atNight.map((one) => `at night: ${one}`)];
}

test.describe('no accessibility faults in either look', () => {
  // Each page is scanned twice, by a scanner that takes seconds.
  test.describe.configure({ timeout: 180000 });
  test.use({ colorScheme: 'light', contextOptions: { reducedMotion: 'reduce' } });

  test('on the start page and in an empty session', async ({ page }) => {
    await page.goto('/');
    await newSession(page, 'Empty');
    await expect(page.getByText('Nothing here yet')).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await page.goto('/');
    await expect(page.locator('.session-card').first()).toBeVisible();
    expect(await faults(page)).toEqual([]);
  });

  test('in any view', async ({ page }) => {
    await openDemo(page);
    await page.getByRole('button', { name: /^Clip low tide/ }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Effect', exact: true }).click();
    await expect(page.getByRole('button', { name: /^Band 1, / })).toBeVisible();
    await page.getByRole('button', { name: /^Presets of/ }).click();
    expect(await faults(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Delay', exact: true }).click();
    await expect(page.getByRole('img', { name: /Echogram/ })).toBeVisible();
    expect(await faults(page, '.centre')).toEqual([]);
    await page.getByRole('button', { name: 'Stage', exact: true }).click();
    await page.locator('.thing').filter({ hasText: 'Reed organ' }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'Into lanes' })).toBeVisible();
    expect(await faults(page, '.centre')).toEqual([]);
    await page.getByRole('button', { name: 'Routing', exact: true }).click();
    await expect(page.locator('.strip-node')).toHaveCount(17);
    expect(await faults(page, '.centre')).toEqual([]);
    await page.getByRole('button', { name: 'Compare', exact: true }).click();
    expect(await faults(page, '.centre')).toEqual([]);
  });

  test('in any drawer', async ({ page }) => {
    await openDemo(page);
    await page.locator('.auto-lane-name').first().click();
    await page.getByRole('button', { name: 'Recipes' }).click();
    await expect(page.getByRole('button', { name: 'Build it' })).toBeVisible();
    await animationsEnd(page);
    expect(await faults(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(page.getByRole('region', { name: 'Recipes' })).toHaveCount(0);
    for (const list of ['Library', 'Modulators']) {
      await page.getByRole('button', { name: list, exact: true }).click();
      await expect(page.getByRole('region', { name: list })).toBeVisible();
      expect(await faults(page, '.drawer')).toEqual([]);
    }
    await page.getByRole('button', { name: 'About listening places' }).click();
    await expect(page.getByRole('region', { name: 'Listening places' })).toBeVisible();
    expect(await faults(page, '.drawer')).toEqual([]);
    await page.getByRole('button', { name: 'Close listening places' }).click();
    await addEffect(page, 'Middle and sides');
    await page.getByRole('button', { name: 'Effect', exact: true }).click();
    await page.getByRole('button', { name: 'About Middle and sides' }).click();
    await expect(page.getByRole('button', { name: /^Try it on/ })).toHaveCount(2);
    await expect(page.getByRole('region', { name: 'Mid to side', exact: true })).toBeVisible();
    expect(await faults(page)).toEqual([]);
  });

  test('in an impulse and where one is made, and in notes of an empty track', async ({ page }) => {
    await newSession(page, 'Scrollers');
    await page.getByRole('button', { name: 'Add a track' }).first().click();
    await addEffect(page, 'Convolution');
    await page.getByRole('button', { name: 'Effect', exact: true }).click();
    await expect(page.getByRole('slider', { name: 'End of the impulse' })).toBeVisible({ timeout: 20000 });
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Make one' }).click();
    await page.getByRole('tab', { name: 'Measure a place' }).click();
    await expect(page.getByRole('button', { name: 'Record there' })).toBeVisible();
    expect(await faults(page, '.modal')).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
    await page.getByRole('button', { name: 'Timeline', exact: true }).click();
    await page.getByRole('button', { name: 'Notes', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Keys and beats' })).toBeVisible();
    expect(await faults(page)).toEqual([]);
  });

  test('in open notes and on the keyboard', async ({ page }) => {
    await openDemo(page);
    await page.getByRole('button', { name: 'Notes', exact: true }).click();
    await page.getByLabel('Chord at the playhead').fill('Dm7');
    await page.getByLabel('Chord at the playhead').press('Enter');
    await expect(page.locator('.note')).toHaveCount(4);
    await page.getByRole('button', { name: 'Keyboard', exact: true }).click();
    await expect(page.locator('.keyboard')).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await page.keyboard.press('Control+z');
    await saved(page);
  });

  test('in any dialog', async ({ page }) => {
    await newSession(page, 'Dialogs');
    await addEffect(page, 'Delay');
    await page.getByRole('button', { name: 'effect', exact: true }).click();
    await expect(page.getByRole('dialog')).toBeVisible();
    expect(await faults(page, '.modal')).toEqual([]);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+k');
    await expect(page.getByRole('combobox', { name: 'Find' })).toBeVisible();
    expect(await faults(page, '.modal')).toEqual([]);
    await page.keyboard.press('Escape');
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
    expect(await faults(page, '.modal')).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
    await page.getByRole('button', { name: 'Bounce' }).click();
    await expect(page.getByRole('dialog')).toBeVisible();
    await animationsEnd(page);
    expect(await faults(page, '.modal')).toEqual([]);
  });
});

test.describe('the focus is plain to see by day and by night', () => {
  test.use({ contextOptions: { reducedMotion: 'reduce' } });

  test('on every kind of control', async ({ page }) => {
    test.setTimeout(180000);
    const known = { light: new Set<string>(), dark: new Set<string>() };
    const faint: string[] = [];
    const probe = async () => {
      for (const colorScheme of ['light', 'dark'] as const) {
        await page.emulateMedia({ colorScheme });
        await expect(look(page)).toHaveAttribute('data-theme', colorScheme === 'light' ? 'paper' : 'night');
        for (const control of await faintFocus(page, known[colorScheme])) faint.push(`${colorScheme}: ${control}`);
      }
    };
    await page.goto('/');
    await expect(page.getByRole('button', { name: 'Open the demo' })).toBeVisible();
    await probe();
    await openDemo(page);
    await page.getByRole('button', { name: /^Clip low tide/ }).click();
    await expect(page.getByRole('button', { name: 'Word 1 of low tide' })).toBeVisible({ timeout: 20000 });
    await probe();
    for (const view of ['Effect', 'Stage', 'Routing', 'Compare']) {
      await page.getByRole('button', { name: view, exact: true }).click();
      await expect(page.locator('.waiting')).toHaveCount(0);
      await probe();
    }
    for (const drawer of ['Library', 'Modulators', 'Recipes']) {
      await page.getByRole('button', { name: drawer, exact: true }).click();
      await expect(page.getByRole('region', { name: drawer })).toBeVisible();
      await probe();
    }
    await page.getByRole('button', { name: 'Timeline', exact: true }).click();
    await page.getByRole('button', { name: 'Notes', exact: true }).click();
    await probe();
    await page.getByRole('button', { name: 'Bounce' }).click();
    await expect(page.getByRole('dialog')).toBeVisible();
    await probe();
    expect(known.light.size).toBeGreaterThan(60);
    expect(faint).toEqual([]);
  });
});

test('the look is the system’s, can be switched and is remembered', async ({ page }) => {
  await page.emulateMedia({ colorScheme: 'dark' });
  await page.goto('/');
  await expect(look(page)).toHaveAttribute('data-theme', 'night');
  await page.emulateMedia({ colorScheme: 'light' });
  await expect(look(page)).toHaveAttribute('data-theme', 'paper');
  await page.getByRole('button', { name: /Change to paper/ }).click();
  await page.getByRole('button', { name: /Change to night/ }).click();
  await page.reload();
  await expect(look(page)).toHaveAttribute('data-theme', 'night');
});

test('nothing scrolls sideways at 1280, and all pages are isolated and guarded', async ({ page }) => {
  await openDemo(page);
  expect(
    await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth && crossOriginIsolated),
  ).toBe(true);
  const response = await page.request.get('/');
  expect(response.headers()['content-security-policy']).toContain("default-src 'self'");
  const foreign = await page.request.post('/api/sessions', {
    data: { name: 'x' },
    headers: { origin: 'http://elsewhere.example' },
  });
  expect(foreign.status()).toBe(403);
  const wrong = await page.request.post('/api/sessions', { data: { title: 'x' } });
  expect([wrong.status(), (await wrong.json()).error.code]).toEqual([422, 'request.invalid']);
});

test('the columns are resized and folded by keyboard, and the session is renamed', async ({ page }) => {
  await newSession(page, 'Widths');
  const cast = page.getByRole('region', { name: 'Cast' });
  const width = async () => (await cast.boundingBox())!.width;
  const before = await width();
  expect(Math.abs(before - 200)).toBeLessThan(4);
  const handle = page.getByRole('separator', { name: 'Width of the cast' });
  await handle.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(width).toBeGreaterThan(before + 20);
  await page.keyboard.press('Home');
  await expect.poll(width).toBeLessThan(2);
  await page.getByLabel('Name of the session').fill('Wide water');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.goto('/');
  await expect(page.getByRole('link', { name: 'Wide water', exact: true }).first()).toBeVisible();
});
