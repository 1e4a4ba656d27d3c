import { expect } from '@playwright/test';
import { test } from './server';
import { addEffect, bringIn, meterWidth, newSession, openDemo, saved, typeValue, voiceFile } from './studio';

test('a broken file is refused with the reason, and nothing changes', async ({ page }) => {
  await newSession(page, 'Broken');
  await page
    .getByLabel('Sound files')
    .setInputFiles({ name: 'torn.wav', mimeType: 'audio/wav', buffer: voiceFile().subarray(0, 5000) });
  await expect(page.getByRole('alert').filter({ hasText: 'torn.wav' })).toContainText('the file was cut short');
  await page.getByRole('button', { name: 'Bring in what is whole' }).click();
  await expect(page.getByRole('button', { name: /^Clip torn, cut, .* 0\.03 seconds/ })).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'torn.wav' })).toHaveCount(0);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await page
    .getByLabel('Sound files')
    .setInputFiles({ name: 'torn.wav', mimeType: 'audio/wav', buffer: voiceFile().subarray(0, 40) });
  await page
    .getByLabel('Sound files')
    .setInputFiles({ name: 'song.txt', mimeType: 'text/plain', buffer: Buffer.from('low water') });
  await expect(page.getByRole('alert').filter({ hasText: 'song.txt' })).toContainText(
    'is none of WAV, AIFF, FLAC, MP3',
  );
  await expect(page.locator('[data-track]')).toHaveCount(0);
  await page.getByRole('button', { name: 'Close this message' }).first().click();
  await expect(page.getByRole('alert').filter({ hasText: 'torn.wav' })).toHaveCount(0);
});

test('sounds of every kind come in, each on a track of its own, as long as they are', async ({ page }) => {
  await newSession(page, 'Kinds');
  const names = ['16-little.aifc', 'rf64.wav', 'variable.mp3', 'stereo.ogg', 'stereo.opus'];
  await page.getByLabel('Sound files').setInputFiles(names.map((name) => `test/fixtures/sounds/${name}`));
  await page.getByRole('button', { name: 'Bring them in' }).click();
  for (const [name, seconds] of [
    ['16-little', '0.05'],
    ['rf64', '0.05'],
    ['variable', '0.50'],
  ])
    await expect(page.getByRole('button', { name: new RegExp(`^Clip ${name}, .* ${seconds} seconds`) })).toBeVisible({
      timeout: 30000,
    });
  await expect(page.getByRole('button', { name: /^Clip stereo, .* 0\.50 seconds/ })).toHaveCount(2);
  await expect(page.locator('[data-track]')).toHaveCount(5);
  await page
    .getByLabel('Sound files')
    .setInputFiles([`test/fixtures/sounds/flac-in-ogg.ogg`, `test/fixtures/sounds/mu-law.wav`]);
  await page.getByRole('button', { name: 'Bring them in' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'flac-in-ogg.ogg' })).toContainText('is FLAC in Ogg');
  await expect(page.getByRole('alert').filter({ hasText: 'mu-law.wav' })).toContainText('holds mu-law');
  await expect(page.locator('[data-track]')).toHaveCount(5);
  await saved(page);
  await page.reload();
  await expect(page.getByRole('button', { name: /^Clip stereo, / })).toHaveCount(2);
});

test('work goes on while the server is away, and is saved when it is back', async ({ page }) => {
  await newSession(page, 'Away');
  await page.route('**/api/sessions/*', (route) =>
    route.request().method() === 'PUT' ? route.abort() : route.continue(),
  );
  await page.getByRole('button', { name: 'Add a track' }).click();
  await expect(page.locator('.save-state')).toHaveText('Not saved, trying again');
  await expect(page.getByRole('alert').filter({ hasText: 'does not answer' })).toContainText('is kept in this browser');
  await page.unroute('**/api/sessions/*');
  await saved(page);
});

test('a change in two windows keeps both versions and says so', async ({ page, context }) => {
  await newSession(page, 'Two windows');
  const other = await context.newPage();
  await other.goto(page.url());
  await other.getByRole('button', { name: 'Add a track' }).click();
  await saved(other);
  await addEffect(page, 'Utility');
  await expect(page.getByRole('alert').filter({ hasText: 'another window' })).toContainText('Both versions are kept');
  await expect(page.getByLabel('Name of the session')).toHaveValue('Two windows, kept copy');
  await page.reload();
  await expect(page.getByRole('region', { name: 'Utility' })).toBeVisible();
});

test('a session that is not there says so and leads back', async ({ page }) => {
  await page.goto('/session/nowhere');
  await expect(page.getByRole('alert').filter({ hasText: 'There is no session' })).toBeVisible();
  await page.getByRole('link', { name: 'To the list of sessions' }).click();
  await expect(page.getByRole('heading', { name: 'Sessions' })).toBeVisible();
});

test('a session needs no name, is renamed and copied, goes into the bin, comes back, and goes for good', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.locator('.shell')).toBeVisible();
  await page.goto('/');
  await page.getByLabel('Name', { exact: true }).fill('x'.repeat(200));
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByText('letters at most')).toBeVisible();
  await page.getByRole('button', { name: 'More for Untitled', exact: true }).click();
  await page.getByRole('button', { name: 'Rename' }).click();
  await page.getByLabel('Name of Untitled', { exact: true }).fill('Short life');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'More for Short life', exact: true }).click();
  await page.getByRole('button', { name: 'Duplicate' }).click();
  await expect(page.getByRole('link', { name: 'Short life, copy', exact: true }).first()).toBeVisible();
  for (const name of ['Short life', 'Short life, copy']) {
    await page.getByRole('button', { name: `More for ${name}`, exact: true }).click();
    await page.getByRole('button', { name: 'Put into the bin' }).click();
    await expect(page.getByRole('link', { name, exact: true })).toHaveCount(0);
  }
  await page.getByRole('button', { name: 'Bin (2)' }).click();
  await page.getByRole('button', { name: 'Take Short life out of the bin' }).click();
  await expect(page.getByRole('link', { name: 'Short life', exact: true }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Remove Short life, copy' }).click();
  await page.getByRole('button', { name: 'Keep' }).click();
  await page.getByRole('button', { name: 'Remove Short life, copy' }).click();
  await page.getByRole('button', { name: 'Remove for good' }).click();
  await expect(page.getByText('Short life, copy')).toHaveCount(0);
});

test('effects are added, bypassed, reordered, set by preset and removed', async ({ page }) => {
  await newSession(page, 'Chain');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Delay');
  await addEffect(page, 'Limiter');
  const steps = page.locator('.chain .step h3 .step-name');
  await expect(steps).toHaveText(['Delay', 'Limiter']);
  await page.getByRole('button', { name: 'Move Limiter', exact: true }).focus();
  const announced = page.locator('[id^="DndLiveRegion"]');
  for (const [key, text] of [
    ['Space', /Limiter is (picked up|over Limiter)\./],
    ['ArrowUp', /Limiter is over Delay\./],
    ['Space', /Limiter is put down over Delay\./],
  ] as const) {
    await page.keyboard.press(key);
    await expect(announced.filter({ hasText: text })).toHaveCount(1);
  }
  await expect(steps).toHaveText(['Limiter', 'Delay']);
  await page.getByRole('button', { name: 'Bypass Delay', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Bypass Delay', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'Delay', exact: true }).click();
  await page.getByRole('button', { name: 'Presets of Delay' }).click();
  await page.getByRole('button', { name: /^Bouncing/ }).click();
  await page.getByRole('button', { name: 'Presets of Delay' }).click();
  await expect(page.getByRole('switch', { name: 'Swap sides' })).toBeChecked();
  await page.getByRole('button', { name: 'Remove Limiter', exact: true }).click();
  await expect(steps).toHaveText(['Delay']);
  const pan = page.getByRole('region', { name: /signal path/i }).getByRole('slider', { name: 'Pan' });
  await typeValue(pan, '12 left');
  await expect(pan).toHaveAttribute('aria-valuetext', '12 left');
});

test('solo and mute change what is heard', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Mute Main' }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect(page.getByLabel('Position')).not.toHaveText(/^1\.1/);
  expect(await meterWidth(page)).toBeLessThan(2);
  await page.getByRole('button', { name: 'Mute Main' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(50);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Mute Main' })).toHaveAttribute('aria-pressed', 'false');
  await saved(page);
});
