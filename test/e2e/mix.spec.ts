import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { addEffect, bringIn, drag, meterWidth, newSession, openDemo, saved, typeValue, voiceFile } from './studio';

const chain = (page: Page) => page.getByRole('region', { name: /signal path/i });
const choose = (page: Page, name: string) => page.locator('.member-name').getByText(name, { exact: true }).click();
const undo = (page: Page) => page.getByRole('button', { name: /^Undo/ }).click();

test('a track is sent to a new return, before and after the fader, heard through it alone, and all is kept', async ({
  page,
}) => {
  await newSession(page, 'Returns');
  await bringIn(page, 'voice.wav', voiceFile());
  await chain(page).getByRole('button', { name: 'send', exact: true }).click();
  await page.locator('.dropdown-item').filter({ hasText: 'Delay' }).click();
  const send = chain(page).getByRole('slider', { name: 'to Delay' });
  await expect(send).toHaveAttribute('aria-valuetext', '-6.0 dB');
  await typeValue(send, '-3dB');
  await expect(send).toHaveAttribute('aria-valuetext', '-3.0 dB');
  await chain(page).getByRole('button', { name: 'Send to Delay: after the fader' }).click();
  await expect(chain(page).getByRole('button', { name: 'Send to Delay: before the fader' })).toBeVisible();
  await undo(page);
  await chain(page).getByRole('button', { name: 'Hear voice only through Delay' }).click();
  await expect(chain(page).getByRole('slider', { name: / Level$/ })).toHaveAttribute('aria-valuetext', '-inf dB');
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(30);
  await page.keyboard.press('Space');
  await choose(page, 'Delay');
  await expect(chain(page).getByText('The sum of 1 send')).toBeVisible();
  await expect(chain(page).getByRole('slider', { name: 'Delay Mix' })).toHaveAttribute('aria-valuetext', '100 %');
  await saved(page);
  await page.reload();
  await choose(page, 'voice');
  await expect(chain(page).getByRole('slider', { name: 'to Delay' })).toHaveAttribute('aria-valuetext', '-3.0 dB');
});

test('in the routing strips are connected by dragging, a send is set on its line, and a loop is refused by name', async ({
  page,
}) => {
  await newSession(page, 'Drawn');
  await bringIn(page, 'voice.wav', voiceFile());
  for (const name of ['Return', 'Return', 'Group']) {
    await page.getByRole('button', { name: 'Add a return or a group' }).click();
    await page
      .locator('.dropdown-item')
      .filter({ has: page.getByText(name, { exact: true }) })
      .click();
  }
  await page.getByRole('button', { name: 'Routing', exact: true }).click();
  const out = (name: string) => page.getByLabel(`Out of ${name}`, { exact: true });
  const into = (name: string) => page.getByLabel(`Into ${name}`, { exact: true });
  await out('voice').dragTo(into('Return 1'));
  const pill = page.getByRole('button', { name: /^Send of voice to Return 1/ });
  await expect(page.getByRole('slider', { name: 'to Return 1' }).first()).toBeVisible();
  await page.locator('.react-flow__pane').click({ position: { x: 20, y: 300 } });
  await expect(pill).toHaveAccessibleName('Send of voice to Return 1, -6.0 dB');
  await pill.press('ArrowUp');
  await expect(pill).toHaveAccessibleName('Send of voice to Return 1, -5.5 dB');
  await drag(page, pill, 0, 20);
  await expect(pill).toHaveAccessibleName('Send of voice to Return 1, -8.5 dB');
  await out('Return 1').dragTo(into('Return 2'));
  await page.locator('.react-flow__pane').click({ position: { x: 20, y: 300 } });
  await out('Return 2').dragTo(into('Return 1'));
  await expect(page.locator('.notice-problem')).toContainText('in a circle: Return');
  await out('voice').dragTo(into('Group 1'));
  await expect(page.locator('.react-flow__edge')).toHaveCount(6);
  await undo(page);
  await expect(page.locator('.send-pill')).toHaveCount(2);
});

test('a compressor is keyed from a track by mouse and by list, and its key can be heard', async ({ page }) => {
  await newSession(page, 'Keyed');
  await bringIn(page, 'voice.wav', voiceFile());
  await bringIn(page, 'pad.wav', voiceFile(2));
  await addEffect(page, 'Compressor');
  const key = chain(page).getByLabel('Compressor key', { exact: true });
  await expect(key.locator('option')).toContainText([
    'own input: what comes in here',
    'voice, before fader: the same however it is mixed',
  ]);
  await key.selectOption({ label: 'voice, after fader: follows fader and mute' });
  await expect(page.locator('.path-mark-key')).toHaveCount(1);
  await page.getByRole('button', { name: 'Routing', exact: true }).click();
  await expect(page.locator('.signal-key')).toHaveCount(1);
  await undo(page);
  await expect(page.locator('.signal-key')).toHaveCount(0);
  await page.getByLabel('Out of voice').dragTo(page.getByLabel('Key of pad'));
  await expect(page.locator('.signal-key')).toHaveCount(1);
  await page.getByRole('button', { name: 'Compressor', exact: true }).click();
  await page.getByRole('switch', { name: 'Listen to the key' }).click();
  await page.getByRole('button', { name: 'Solo pad' }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(30);
});

test('a track is frozen, its print plays, goes out of date and thaws', async ({ page }) => {
  await newSession(page, 'Frozen');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Delay');
  await chain(page).getByRole('button', { name: 'Freeze' }).click();
  await expect(chain(page).getByRole('button', { name: 'Thaw' })).toBeVisible({ timeout: 30000 });
  await expect(chain(page).getByText('The frozen render')).toBeVisible();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(30);
  await page.keyboard.press('Space');
  await expect(chain(page).getByRole('button', { name: /Out of date/ })).toHaveCount(0);
  await typeValue(chain(page).getByRole('slider', { name: 'Delay Feedback' }), '60');
  await expect(chain(page).getByRole('button', { name: /Out of date/ })).toBeVisible();
  await undo(page);
  await expect(chain(page).getByRole('button', { name: /Out of date/ })).toHaveCount(0);
  await chain(page).getByRole('button', { name: 'Thaw' }).click();
  await expect(chain(page).getByText('1 clip')).toBeVisible();
});

test('settings are compared at equal loudness, switched while playing, and tried blind', async ({ page }) => {
  await newSession(page, 'Compared');
  await bringIn(page, 'voice.wav', voiceFile(3));
  await addEffect(page, 'Utility');
  await page.getByRole('button', { name: 'Compare', exact: true }).click();
  await page.getByRole('radio', { name: 'Copy what is heard to B' }).click();
  await typeValue(chain(page).getByRole('slider', { name: 'Utility Gain' }), '6');
  await page.getByRole('button', { name: 'Measure loudness' }).click();
  await expect(page.getByRole('radio', { name: 'Hear B' })).toContainText('-6.0 dB', { timeout: 20000 });
  await expect(page.getByText('B is heard 6.0 dB softer')).toBeVisible();
  await page.getByRole('radio', { name: 'Hear A' }).click();
  await expect(chain(page).getByRole('slider', { name: 'Utility Gain' })).toHaveAttribute('aria-valuetext', '0.0 dB');
  await expect(page.getByText('A is heard as it is.')).toBeVisible();
  await page.getByRole('button', { name: 'Blind trial' }).click();
  const dialog = page.getByRole('dialog');
  await expect(chain(page).getByRole('slider')).toHaveCount(0);
  await expect(page.getByRole('radio', { name: 'Hear A' })).toHaveCount(0);
  await dialog.getByRole('button', { name: 'Play' }).click();
  await expect(dialog.getByRole('button', { name: 'Stop' })).toBeVisible();
  for (let round = 1; round <= 5; round++) {
    await expect(dialog.getByRole('heading')).toHaveText(`Blind trial, round ${round} of 5`);
    await dialog.getByRole('button', { name: 'Hear 2' }).click();
    await dialog.getByRole('button', { name: 'I prefer 1' }).click();
  }
  await expect(dialog.getByRole('status')).toContainText(/You preferred [AB] in [345] of 5 rounds/);
  await dialog.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByRole('radio', { name: 'Hear A' })).toHaveAttribute('aria-checked', 'true');
});

test('presets are searched, tried, taken back, saved, marked and read again', async ({ page }) => {
  await newSession(page, 'Presets');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Saturator');
  await page.getByRole('button', { name: 'Saturator', exact: true }).click();
  const drive = page.getByRole('slider', { name: 'Drive', exact: true });
  const toggle = page.getByRole('button', { name: /^Presets of Saturator/ });
  await toggle.click();
  await page.getByRole('searchbox', { name: 'Search presets' }).fill('horn');
  await page.getByRole('button', { name: /^Through a horn/ }).click();
  await expect(drive).toHaveAttribute('aria-valuetext', '20.0 dB');
  await page.keyboard.press('Escape');
  await expect(drive).toHaveAttribute('aria-valuetext', '9.0 dB');
  await typeValue(drive, '13');
  await toggle.click();
  await page.getByRole('searchbox', { name: 'Search presets' }).fill('');
  const name = `Quay ${Date.now()}`;
  await page.getByLabel('Name of the new preset').fill(name);
  await page.getByLabel('Tags of the new preset').fill('tide, own');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByRole('button', { name: `Favourite: ${name}` }).click();
  await expect(page.getByRole('list', { name: 'Presets' }).getByRole('listitem').first()).toContainText(name);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: `Write ${name} to a file` }).click();
  const file = await (await download).path();
  await page.getByRole('button', { name: `Remove preset ${name}` }).click();
  await expect(page.getByRole('button', { name: new RegExp(`^${name}`) })).toHaveCount(0);
  await page.getByLabel('Preset file').setInputFiles(file);
  await page.getByLabel('Tag', { exact: true }).selectOption('own');
  await expect(page.getByRole('button', { name: new RegExp(`^${name}`) })).toBeVisible();
});

test('recipes ask, show what they will build, build in one step and say what was built', async ({ page }) => {
  await openDemo(page);
  await choose(page, 'Lamp keeper');
  await page.getByRole('button', { name: 'Recipes' }).click();
  const recipes = page.getByRole('region', { name: 'Recipes' });
  await recipes.getByRole('button', { name: /^Last-word throws/ }).click();
  await expect(recipes).toContainText('A send from Lamp keeper into it');
  await expect(recipes.getByRole('img')).toHaveAccessibleName(
    'From Lamp keeper to Throws of Lamp keeper (Delay) by a send',
  );
  await recipes.getByRole('button', { name: 'Build it' }).click();
  await expect(recipes).toContainText('3 phrases were found', { timeout: 30000 });
  await expect(page.locator('.member-name').filter({ hasText: 'Throws of Lamp keeper' })).toHaveCount(1);
  await recipes.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.locator('.member-name').filter({ hasText: 'Throws of Lamp keeper' })).toHaveCount(0);
  await recipes.getByRole('button', { name: /^Echoes that sink/ }).click();
  await recipes.getByRole('button', { name: 'Build it' }).click();
  await expect(recipes).toContainText('the words measure -22', { timeout: 30000 });
  await recipes.getByRole('button', { name: 'Show it in the routing' }).click();
  await expect(page.locator('.strip-node').filter({ hasText: 'Echoes under Lamp' })).toBeVisible();
  await undo(page);
  await saved(page);
});

test('wet only, bypass all and solo change what is heard, and the demo has what it should', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Wet only' }).click();
  const returns = [
    'Echoes under the lamp',
    'Throws across the harbour',
    'Lamp room',
    'Tide hall',
    'Far from the organ',
    'Words in the water',
    'Beside the lamp keeper',
  ];
  for (const name of returns) await page.getByRole('button', { name: `Mute ${name}` }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect(page.getByLabel('Position')).not.toHaveText(/^1\.1/);
  expect(await meterWidth(page)).toBeLessThan(2);
  await page.getByRole('button', { name: 'Wet only' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(50);
  // Other tests open the demo too: it is left as it was.
  for (let step = 0; step < returns.length + 2; step++) await undo(page);
  await expect(page.getByRole('button', { name: 'Wet only', exact: true })).toHaveAttribute('aria-pressed', 'false');
  await expect(page.getByRole('button', { name: 'Mute Echoes under the lamp', exact: true })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  await saved(page);
});
