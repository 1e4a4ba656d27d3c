import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { addEffect, bringIn, drag, newSession, saved, voiceFile } from './studio';

const clips = (page: Page, name = 'voice') => page.getByRole('button', { name: new RegExp(`^Clip ${name}`) });
const label = (page: Page, index: number) => clips(page).nth(index).getAttribute('aria-label');
const step = (page: Page, name: string) => expect(page.getByRole('button', { name: `Undo: ${name}` })).toBeVisible();
const menu = (page: Page) => page.locator('.context-menu .dropdown-menu');

async function act(page: Page, index: number, name: string) {
  await clips(page).nth(index).click({ button: 'right' });
  await menu(page).getByRole('button', { name, exact: true }).click();
  await expect(menu(page)).toHaveCount(0);
}

const putPlayhead = (page: Page, x: number) => page.locator('.beat-ruler').click({ position: { x, y: 15 } });

test('a morning of cutting: menus, copies, pieces and what belongs together', async ({ page }) => {
  test.setTimeout(120000);
  await newSession(page, 'Morning');
  await bringIn(page, 'voice.wav', voiceFile(4));
  const clip = clips(page).first();
  const beat = (await clip.boundingBox())!.width / (4 / 0.6);

  // The menu at the menu key is about the clip that has the focus, and gives it back.
  await clip.focus();
  await page.keyboard.press('Shift+F10');
  await expect(menu(page)).toContainText('voice');
  await expect(menu(page).getByRole('button').first()).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(menu(page).getByRole('button').nth(1)).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(menu(page)).toHaveCount(0);
  await expect(clip).toBeFocused();

  // Split, a part copied and put in twice, and the whole taken back step by step.
  await putPlayhead(page, 3 * beat);
  await act(page, 0, 'Split at the playhead');
  await step(page, 'Split voice');
  await expect(clips(page)).toHaveCount(2);
  await clips(page).nth(1).click();
  await page.keyboard.press('Control+c');
  await putPlayhead(page, 8 * beat);
  await page.keyboard.press('Control+v');
  await expect(clips(page)).toHaveCount(3);
  await step(page, 'Paste voice');
  expect(await label(page, 2)).toMatch(/from beat 9\.00, 2\.20 seconds/);
  // The playhead stands behind it: the next follows.
  await page.keyboard.press('Control+v');
  await expect(clips(page)).toHaveCount(4);
  expect(await label(page, 3)).toMatch(/from beat 12\.67, 2\.20 seconds/);
  await page.keyboard.press('Control+x');
  await expect(clips(page)).toHaveCount(3);
  await step(page, 'Cut voice');

  // What a split has cut joins again; a gap is filled as far as the sound reaches.
  await clips(page).first().click();
  await clips(page)
    .nth(1)
    .click({ modifiers: ['Shift'] });
  await act(page, 1, 'Join');
  await expect(clips(page)).toHaveCount(2);
  expect(await label(page, 0)).toMatch(/from beat 1\.00, 4\.00 seconds/);
  await drag(page, page.locator('.clip-selected .clip-end'), -3 * beat);
  const short = /from beat 1\.00, [12]\.\d\d seconds/;
  await expect.poll(() => label(page, 0)).toMatch(short);
  await act(page, 0, 'Fill the gap behind');
  expect(await label(page, 0)).toMatch(/from beat 1\.00, 4\.00 seconds/);
  await page.keyboard.press('Control+z');
  await expect.poll(() => label(page, 0)).toMatch(short);
  await page.keyboard.press('Control+Shift+z');

  // One over the end of another, faded over.
  await clips(page).nth(1).focus();
  for (let n = 0; n < 4; n++) await page.keyboard.press('ArrowLeft');
  await expect.poll(() => label(page, 1)).toMatch(/from beat 5\.00/);
  await clips(page).first().focus();
  await page.keyboard.press('Enter');
  await clips(page).nth(1).focus();
  await page.keyboard.press('Shift+Enter');
  await page.getByRole('button', { name: 'Crossfade at equal power' }).click();
  await step(page, 'Crossfade 2 clips');
  await expect(page.getByLabel('Fade out of 2 clips')).toHaveValue('several');
  await page.getByLabel('Fade out of 2 clips').fill('20 ms');
  await page.getByLabel('Fade out of 2 clips').press('Enter');
  await step(page, 'Fade 2 clips');
  await page.keyboard.press('Control+z');
  await clips(page).nth(1).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Fade in of voice')).toHaveValue('1600 ms');
  await expect(page.getByLabel('Shape of fade in')).toHaveValue('early');

  // By a millisecond, and the sound within the clip.
  await clips(page).nth(1).focus();
  await page.keyboard.press('Alt+ArrowRight');
  await step(page, 'Nudge voice');
  await page.keyboard.press('Alt+Shift+ArrowRight');
  await step(page, 'Slip voice');

  // Into another session of this browser.
  await page.keyboard.press('Control+c');
  await saved(page);
  await newSession(page, 'Afternoon');
  await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await page
    .locator('.lane')
    .first()
    .click({ button: 'right', position: { x: 300, y: 20 } });
  await menu(page).getByRole('button', { name: 'Paste at the playhead' }).click();
  await expect(clips(page)).toHaveCount(1);
  expect(await label(page, 0)).toMatch(/from beat 1\.00, 2\.20 seconds/);
  await saved(page);
  await page.reload();
  await expect(clips(page)).toHaveCount(1);
});

test('a strip is duplicated with everything from its menu, and an effect copied and removed from its own', async ({
  page,
}) => {
  await newSession(page, 'Copies');
  await bringIn(page, 'voice.wav', voiceFile(2));
  const member = page.locator('[data-drop-strip]').first();
  await member.click({ button: 'right' });
  await menu(page).getByRole('button', { name: 'Duplicate with everything' }).click();
  await expect(clips(page)).toHaveCount(2);
  await step(page, 'Duplicate voice');
  await expect(page.getByRole('button', { name: 'voice 2', exact: true })).toHaveAttribute('aria-pressed', 'true');
  // An effect has its own.
  await addEffect(page, 'Delay');
  const effect = page.getByRole('region', { name: 'Delay', exact: true });
  await effect.click({ button: 'right', position: { x: 60, y: 16 } });
  await expect(menu(page)).toContainText('Delay on voice 2');
  await menu(page).getByRole('button', { name: 'Copy after this one' }).click();
  await expect(page.getByRole('region', { name: 'Delay 2' })).toBeVisible();
  await effect.click({ button: 'right', position: { x: 60, y: 16 } });
  await menu(page).getByRole('button', { name: 'Remove', exact: true }).click();
  await step(page, 'Remove Delay');
  // A press elsewhere closes a menu and does nothing else.
  await member.click({ button: 'right' });
  await expect(menu(page)).toHaveCount(1);
  await page.mouse.click(600, 600);
  await expect(menu(page)).toHaveCount(0);
  await expect(clips(page)).toHaveCount(2);
});

test('the timeline zooms from the whole to single frames, and draws them', async ({ page }) => {
  await newSession(page, 'Close');
  await bringIn(page, 'voice.wav', voiceFile(4));
  const clip = clips(page).first();
  const box = (await clip.boundingBox())!;
  const [x, y] = [box.x + box.width / 3, box.y + 30];
  await page.mouse.move(x, y);
  const shape = () => clip.locator('.waveform path').getAttribute('d');
  const from = await shape();
  await page.keyboard.down('Control');
  for (let n = 0; n < 24; n++) await page.mouse.wheel(0, -400);
  await page.keyboard.up('Control');
  // Four pixels a frame: the samples are joined by a line.
  await expect(clip.locator('.waveform-line path')).toHaveAttribute('d', /^M[-\d.]+ [\d.]+L/);
  expect(await shape()).not.toBe(from);
  await expect(page.locator('.beat-ruler')).toContainText(/\d\.\d \+[\d.]+ ms/);
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  await expect.poll(async () => (await clip.boundingBox())!.width).toBeLessThan(1000);
});
