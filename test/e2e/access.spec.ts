import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { repeatedNames } from './repeatedNames';
import { smallLetters } from './smallLetters';
import { faintFocus } from './focus';
import { addEffect, animationsEnd, newSession, openDemo, saved } from './studio';

const look = (page: Page) => page.locator('html');

/**
 * Accessibility faults in both looks; at night only colours differ.
 * @param part selector of what has changed since the last scan of this page; the whole page without one
 */
async function faults(page: Page, part?: string): Promise<string[]> {
  const scan = async (rules?: string) => {
    // There are no frames of other origins: the result need not be put together on a page of its own, which takes seconds.
    const builder = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
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

/** Kinds of controls whose focus ring is faint in one of the looks, found by one probe after another of pages. */
class FocusProbe {
  readonly known = { light: new Set<string>(), dark: new Set<string>() };
  readonly faint: string[] = [];

  async take(page: Page): Promise<void> {
    for (const colorScheme of ['dark', 'light'] as const) {
      await page.emulateMedia({ colorScheme });
      await expect(look(page)).toHaveAttribute('data-theme', colorScheme === 'light' ? 'paper' : 'night');
      for (const control of await faintFocus(page, this.known[colorScheme]))
        this.faint.push(`${colorScheme}: ${control}`);
    }
  }
}

test.describe('no accessibility faults, and a focus that is plain to see, in either look', () => {
  // A page is scanned twice, by a scanner that takes seconds.
  test.describe.configure({ timeout: 240000 });
  test.use({ colorScheme: 'light', contextOptions: { reducedMotion: 'reduce' } });

  test('on the start page and in an empty session', async ({ page }) => {
    await page.goto('/');
    await newSession(page, 'Empty');
    await expect(page.getByText('Nothing here yet')).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await page.goto('/');
    await expect(page.locator('.session-card').first()).toBeVisible();
    expect(await faults(page)).toEqual([]);
    const probe = new FocusProbe();
    await probe.take(page);
    expect(probe.known.light.size).toBeGreaterThan(5);
    expect(probe.faint).toEqual([]);
  });

  test('in every view and drawer of the demo, in its notes and on the keyboard', async ({ page }) => {
    const probe = new FocusProbe();
    /** Looks for faults in a part of the page, or all of it, and for small letters, repeated names and faint rings in all of it. */
    const check = async (part?: string) => {
      await expect(page.locator('.waiting')).toHaveCount(0);
      expect(await faults(page, part)).toEqual([]);
      expect(await smallLetters(page)).toEqual([]);
      expect(await repeatedNames(page)).toEqual([]);
      await probe.take(page);
    };
    await openDemo(page);
    expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
    await test.step('views', async () => {
      await page.getByRole('button', { name: /^Clip low tide/ }).click();
      await expect(page.getByRole('button', { name: 'Word 1 of low tide' })).toBeVisible({ timeout: 20000 });
      await check();
      await page.getByRole('button', { name: 'Effect', exact: true }).click();
      await expect(page.getByRole('button', { name: /^Band 1, / })).toBeVisible();
      await page.getByRole('button', { name: /^Presets of/ }).click();
      await check();
      await page.keyboard.press('Escape');
      await page.getByRole('button', { name: 'Delay', exact: true }).click();
      await expect(page.getByRole('img', { name: /Echogram/ })).toBeVisible();
      await check('.centre');
      await page.getByRole('button', { name: 'Stage', exact: true }).click();
      await page.locator('.thing').filter({ hasText: 'Reed organ' }).focus();
      await page.keyboard.press('Enter');
      await expect(page.getByRole('button', { name: 'Into lanes' })).toBeVisible();
      await check('.centre');
      await page.getByRole('button', { name: 'Routing', exact: true }).click();
      await expect(page.locator('.strip-node')).toHaveCount(17);
      await check('.centre');
      await page.getByRole('button', { name: 'Compare', exact: true }).click();
      await check('.centre');
    });
    await test.step('drawers', async () => {
      await page.getByRole('button', { name: 'Timeline', exact: true }).click();
      await page.locator('.auto-lane-name').first().click();
      await page.getByRole('button', { name: 'Recipes' }).click();
      await expect(page.getByRole('button', { name: 'Build it' })).toBeVisible();
      await animationsEnd(page);
      await check();
      await page.getByRole('button', { name: 'Close recipes' }).click();
      await expect(page.getByRole('region', { name: 'Recipes' })).toHaveCount(0);
      for (const list of ['Library', 'Modulators']) {
        await page.getByRole('button', { name: list, exact: true }).click();
        await expect(page.getByRole('region', { name: list })).toBeVisible();
        await check('.drawer');
      }
      await page.getByRole('button', { name: 'About listening places' }).click();
      await expect(page.getByRole('region', { name: 'Listening places' })).toBeVisible();
      await check('.drawer');
      await page.getByRole('button', { name: 'Close listening places' }).click();
      await addEffect(page, 'Middle and sides');
      await page.getByRole('button', { name: 'Effect', exact: true }).click();
      await page.getByRole('button', { name: 'About Middle and sides' }).click();
      await expect(page.getByRole('button', { name: /^Try it on/ })).toHaveCount(2);
      await expect(page.getByRole('region', { name: 'Mid to side', exact: true })).toBeVisible();
      await check();
    });
    await test.step('notes and keyboard', async () => {
      await page.getByRole('button', { name: 'Timeline', exact: true }).click();
      await page.getByRole('button', { name: 'Notes', exact: true }).click();
      await page.getByLabel('Chord at the playhead').fill('Dm7');
      await page.getByLabel('Chord at the playhead').press('Enter');
      await expect(page.locator('.note')).toHaveCount(4);
      await page.getByRole('button', { name: 'Keyboard', exact: true }).click();
      await expect(page.locator('.keyboard')).toBeVisible();
      await check();
    });
    await page.getByRole('button', { name: 'Bounce' }).click();
    await expect(page.getByRole('dialog')).toBeVisible();
    await probe.take(page);
    expect(probe.known.light.size).toBeGreaterThan(60);
    expect(probe.faint).toEqual([]);
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
    expect(await faults(page, '.sheet')).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(page.locator('.sheet')).toHaveCount(0);
    await expect(page.getByRole('button', { name: 'Make one' })).toBeFocused();
    await page.getByRole('button', { name: 'Timeline', exact: true }).click();
    await page.getByRole('button', { name: 'Notes', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Keys and beats' })).toBeVisible();
    expect(await faults(page)).toEqual([]);
  });

  test('in any dialog', async ({ page }) => {
    await newSession(page, 'Dialogs');
    await addEffect(page, 'Delay');
    await page.getByRole('button', { name: 'effect', exact: true }).click();
    await expect(page.getByRole('region', { name: /^Add an effect to/ })).toBeVisible();
    expect(await faults(page, '.sheet')).toEqual([]);
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

test('pages are isolated and guarded', async ({ page }) => {
  await page.goto('/');
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
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
