import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { writeWav } from '@/core/formats/wav';
import type { SessionDocument } from '@/core/session/records/document';
import { bounce, bringIn, drag, meterWidth, newSession, saved, typeValue } from './studio';

const RATE = 48000;
const thing = (page: Page, name: string) => page.locator('.thing').filter({ hasText: name });
const choose = (page: Page, name: string) =>
  page
    .locator('.member-name')
    .filter({ hasText: new RegExp(`^${name}`) })
    .click();
const view = (page: Page, name: string) =>
  page.getByRole('navigation').getByRole('button', { name, exact: true }).click();
const place = (page: Page) => page.getByRole('region', { name: 'Place', exact: true });

/** A chord that stands for some seconds. */
function padFile(seconds = 5): Buffer {
  const samples = Float32Array.from({ length: RATE * seconds }, (_, n) => {
    const t = n / RATE;
    const tone = (hz: number) => Math.sin(2 * Math.PI * hz * t) + 0.4 * Math.sin(4 * Math.PI * hz * t);
    return 0.12 * Math.min(1, t * 20) * (tone(220) + tone(277.2) + tone(329.6));
  });
  return Buffer.from(writeWav({ sampleRateHz: RATE, channels: [samples] }, '24'));
}

/** Degrees to the right of a sound field of the first order, weighted by energy, over a tenth of a second. */
function azimuth([w, y, , x]: readonly Float32Array[], from: number): number {
  let [ahead, right] = [0, 0];
  for (let n = from; n < from + RATE / 10; n++) {
    ahead += w![n]! * x![n]!;
    right -= w![n]! * y![n]!;
  }
  return (Math.atan2(right, ahead) * 180) / Math.PI;
}

const turned = (degrees: number) => degrees - 360 * Math.round(degrees / 360);

/** Bounces the pad alone, then its space alone, and asks that each is across from the other all the way. */
async function acrossAllTheWay(page: Page, space: string): Promise<void> {
  await page.getByRole('button', { name: `Mute ${space}` }).click();
  const dry = await bounce(page, 'field1');
  await page.getByRole('button', { name: `Mute ${space}` }).click();
  await page.getByRole('button', { name: 'Wet only', exact: true }).click();
  const wet = await bounce(page, 'field1');
  await page.getByRole('button', { name: 'Wet only', exact: true }).click();
  expect(dry).toHaveLength(4);
  let way = 0;
  for (let from = RATE; from < 4.5 * RATE; from += RATE / 5) {
    const [here, there] = [azimuth(dry, from), azimuth(wet, from)];
    expect([from / RATE, Math.abs(turned(here - there - 180)) < 10]).toEqual([from / RATE, true]);
    way += Math.abs(turned(azimuth(dry, from + RATE / 5) - here));
  }
  expect(way).toBeGreaterThan(200);
}

test('a pad is made to circle against its hall by hand, and both are across from one another in the bounce', async ({
  page,
}) => {
  await newSession(page, 'By hand');
  await bringIn(page, 'pad.wav', padFile());
  await page.getByRole('button', { name: 'send', exact: true }).click();
  await page.locator('.dropdown-item').filter({ hasText: 'Reverb' }).first().click();
  await view(page, 'Stage');
  await choose(page, 'pad');
  await page.getByRole('button', { name: 'Place it on the stage' }).click();
  await place(page).getByLabel('Place Motion', { exact: true }).selectOption('circle');
  await typeValue(place(page).getByRole('slider', { name: 'Place Rate' }), '1bar');
  await typeValue(place(page).getByRole('slider', { name: 'Place Distance', exact: true }), '2 m');
  await typeValue(place(page).getByRole('slider', { name: 'Place Distance loss' }), '0');
  await choose(page, 'Reverb');
  await page.getByRole('button', { name: 'Stand opposite to pad' }).click();
  await expect(page.getByText('moves opposite to pad')).toBeVisible();
  await expect(place(page).getByText('the mirror image of pad')).toBeVisible();
  await typeValue(place(page).getByRole('slider', { name: 'Place Size' }), '0.4 m');
  await acrossAllTheWay(page, 'Reverb');
  await saved(page);
  await page.reload();
  await view(page, 'Stage');
  await expect(page.locator('.thing')).toHaveCount(2);
});

test('a recipe builds the same, and the stage shows both going round', async ({ page }) => {
  await newSession(page, 'By recipe');
  await bringIn(page, 'pad.wav', padFile());
  await page.getByRole('button', { name: 'Recipes', exact: true }).click();
  await page.getByRole('button', { name: /^Circling against its own space/ }).click();
  await page.getByRole('button', { name: 'Build it' }).click();
  await expect(page.getByText('is always across from it')).toBeVisible({ timeout: 20000 });
  await page.getByRole('button', { name: 'Close recipes' }).click();
  await acrossAllTheWay(page, 'Against pad');
  await view(page, 'Stage');
  await page.keyboard.press('Space');
  const where = () => thing(page, 'Against pad').evaluate((mark) => getComputedStyle(mark).transform);
  const before = await where();
  await expect.poll(where).not.toBe(before);
  await page.keyboard.press('Space');
});

test('things are moved by mouse and keys, several at once, and written into lanes and back', async ({ page }) => {
  await newSession(page, 'Moved');
  await bringIn(page, 'pad.wav', padFile(2));
  await bringIn(page, 'bell.wav', padFile(2));
  await view(page, 'Stage');
  await page.getByRole('button', { name: /^Place on the stage/ }).click();
  await page.getByRole('button', { name: 'All of them' }).click();
  await expect(thing(page, 'pad')).toHaveAttribute('aria-label', 'pad, ahead, 1.0 m');
  await thing(page, 'pad').focus();
  for (const key of ['ArrowRight', 'ArrowRight', 'ArrowUp', 'ArrowUp', 'ArrowUp', 'ArrowUp', 'PageUp']) {
    await page.keyboard.press(key);
  }
  await expect(thing(page, 'pad')).toHaveAttribute('aria-label', 'pad, 10° right, 2.0 m, 0.5 m up');
  await drag(page, thing(page, 'bell').locator('.thing-mark'), 0, -70);
  const far = /bell, .*, (\d+(\.\d)?) m/;
  await expect(thing(page, 'bell')).toHaveAttribute('aria-label', far);
  await thing(page, 'pad').focus();
  await page.keyboard.press('Enter');
  await thing(page, 'bell').focus();
  await page.keyboard.press('Control+Enter');
  await page.keyboard.press('ArrowLeft');
  await expect(thing(page, 'pad')).toHaveAttribute('aria-label', /^pad, 5° right/);
  await expect(thing(page, 'bell')).toHaveAttribute('aria-label', /^bell, \d+° left/);
  await page.getByRole('button', { name: 'Undo: Move 2 things' }).click();
  await expect(thing(page, 'pad')).toHaveAttribute('aria-label', /^pad, 10° right/);

  await page.getByRole('button', { name: 'Draw a path' }).click();
  const middle = (await page.getByRole('group', { name: 'The stage, seen from above' }).boundingBox())!;
  const [x, y] = [middle.x + middle.width / 2, middle.y + middle.height / 2];
  await page.mouse.move(x + 60, y - 60);
  await page.mouse.down();
  for (let n = 1; n <= 16; n++) {
    const turn = (2 * Math.PI * n) / 16;
    await page.mouse.move(x + 60 + 40 * Math.sin(turn), y - 60 + 40 * (1 - Math.cos(turn)) * 0.7);
  }
  await page.mouse.up();
  await expect(place(page).getByLabel('Place Motion', { exact: true })).toHaveValue('path');
  await page.getByRole('button', { name: 'Into lanes' }).click();
  await expect(place(page).getByLabel('Place Motion', { exact: true })).toHaveValue('none');
  await page.getByRole('button', { name: 'Path from lanes' }).click();
  await expect(place(page).getByLabel('Place Motion', { exact: true })).toHaveValue('path');
  await thing(page, 'pad').focus();
  await page.keyboard.press('Delete');
  await expect(page.locator('.thing')).toHaveCount(1);
  await thing(page, 'bell').focus();
  for (let n = 0; n < 6; n++) await page.keyboard.press('ArrowLeft');
  await page.getByRole('button', { name: 'Headphones', exact: true }).click();
  const [left, right] = await bounce(page);
  expect(left!.some((sample, n) => sample !== right![n])).toBe(true);
  await saved(page);
});

test('a listening place is one key away, says what it takes, and is in no bounce', async ({ page }) => {
  await newSession(page, 'Elsewhere');
  await bringIn(page, 'pad.wav', padFile(3));
  const before = await bounce(page);
  await page.keyboard.press('3');
  await expect(page.getByLabel('Listening place', { exact: true })).toHaveValue('phone');
  await expect(page.getByText('not in a bounce')).toBeVisible();
  await page.getByRole('button', { name: 'About listening places' }).click();
  const drawer = page.getByRole('region', { name: 'Listening places' });
  await expect(drawer.getByRole('button', { name: /^3 Phone/ })).toHaveAttribute('aria-pressed', 'true');
  await expect(drawer.getByText('Takes away the lows, below 300 Hz')).toBeVisible();
  await expect(drawer.getByRole('img', { name: 'Response in the place Phone' })).toBeVisible();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(20);
  await page.getByRole('button', { name: 'Stop' }).click();
  expect(await bounce(page)).toEqual(before);
  await page.keyboard.press('1');
  await expect(page.getByText('not in a bounce')).toHaveCount(0);
});

test('what mono loses is marked in the cast and measured by octave; a sound gets room in another', async ({ page }) => {
  await newSession(page, 'Mono');
  await bringIn(page, 'pad.wav', padFile(4));
  await page.getByRole('button', { name: 'send', exact: true }).click();
  await page.locator('.dropdown-item').filter({ hasText: 'Reverb' }).first().click();
  await page.getByRole('button', { name: 'effect', exact: true }).click();
  await page.locator('.effect-offer').filter({ hasText: 'Utility' }).first().click();
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  await page.getByLabel('Flip right', { exact: true }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  const mark = page.getByRole('button', { name: /^pad loses \d+ dB in mono/ });
  await expect(mark).toBeVisible();
  await mark.click();
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: 'Measure the whole track' }).click();
  await expect(page.getByText(/^Mono takes 60\.0 dB in all/)).toBeVisible({ timeout: 20000 });
  await page.getByRole('button', { name: 'Contrast', exact: true }).click();
  const drawer = page.getByRole('region', { name: 'Contrast' });
  await expect(drawer.getByText(/^pad lives around/)).toBeVisible({ timeout: 20000 });
  await drawer.getByRole('button', { name: 'Lower Reverb there' }).click();
  await expect(page.getByRole('region', { name: 'Equalizer' })).toBeVisible();
});

test('a thing that is dragged while playing writes its way into lanes, as one step', async ({ page }) => {
  await newSession(page, 'Written on stage');
  await bringIn(page, 'pad.wav', padFile(4));
  await view(page, 'Stage');
  await choose(page, 'pad');
  await page.getByRole('button', { name: 'Place it on the stage' }).click();
  const before = await thing(page, 'pad').getAttribute('aria-label');
  await page.getByRole('button', { name: 'Write automation' }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  const position = page.getByLabel('Position');
  await expect(position).not.toHaveText(/^1\.1\.0/);
  const mark = (await thing(page, 'pad').locator('.thing-mark').boundingBox())!;
  const [x, y] = [mark.x + mark.width / 2, mark.y + mark.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let step = 1; step <= 12; step++) {
    // A point for each place that is heard: time is part of what is written.
    await expect(position).not.toHaveText(await position.innerText());
    await page.mouse.move(x + 8 * step, y + 4 * step);
  }
  await page.mouse.up();
  await page.keyboard.press('Space');
  await saved(page);
  const { document } = (await page.request
    .get(`/api/sessions/${new URL(page.url()).pathname.split('/').at(-1)}`)
    .then((answer) => answer.json())) as { document: SessionDocument };
  const lanes = Object.values(document.lanes);
  expect(lanes.map(({ parameter }) => parameter).sort()).toEqual(['azimuth', 'distance']);
  for (const { points } of lanes) expect(points.length).toBeGreaterThan(1);
  await page.getByRole('button', { name: 'Undo: Write Azimuth and Distance' }).click();
  await expect(thing(page, 'pad')).toHaveAttribute('aria-label', before!);
});
