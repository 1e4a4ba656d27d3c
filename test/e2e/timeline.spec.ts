import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { addEffect, bringIn, drag, newSession, openDemo, saved, voiceFile } from './studio';

const clips = (page: Page) => page.getByRole('button', { name: /^Clip voice/ });
const label = (page: Page, index = 0) => clips(page).nth(index).getAttribute('aria-label');

async function build(page: Page, name: string) {
  await newSession(page, name);
  await bringIn(page, 'voice.wav', voiceFile(4));
  await page.getByRole('button', { name: 'Zoom in' }).click();
}

test('clips are moved, trimmed, faded, split, duplicated and deleted, each as one step', async ({ page }) => {
  await build(page, 'Clips');
  const clip = clips(page).first();
  const box = (await clip.boundingBox())!;
  const beat = box.width / (4 / 0.6);
  await drag(page, clip, 2.2 * beat, 0);
  await expect(clip).toHaveAttribute('aria-label', /from beat 3\.00, 4\.00 seconds/);
  await drag(page, page.locator('.clip-end'), -1.9 * beat);
  await expect(clip).toHaveAttribute('aria-label', /from beat 3\.00, 3\.00 seconds/);
  const trimmed = await label(page);
  await drag(page, page.locator('.clip-fadeIn'), beat);
  const fadeIn = page.getByLabel('Fade in of voice');
  await expect(fadeIn).toHaveValue(/^[3-9]\d\d ms$/);
  await page.keyboard.press('Control+z');
  await expect(fadeIn).toHaveValue('0 ms');
  expect(await label(page)).toBe(trimmed);

  await page.locator('.beat-ruler').click({ position: { x: 4 * beat, y: 15 } });
  await clip.focus();
  await page.keyboard.press('/');
  await expect(clips(page)).toHaveCount(2);
  await clip.focus();
  await page.keyboard.press('Control+d');
  await expect(clips(page)).toHaveCount(3);
  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(clips(page)).toHaveCount(2);
  await saved(page);
  await page.reload();
  await expect(clips(page)).toHaveCount(2);
});

test('clips move by keys, between tracks too', async ({ page }) => {
  await build(page, 'Keys');
  await page.getByRole('button', { name: 'Add a track' }).click();
  const clip = clips(page).first();
  await clip.focus();
  await page.keyboard.press('ArrowRight');
  await clip.focus();
  await page.keyboard.press('ArrowRight');
  await expect(clip).toHaveAttribute('aria-label', /from beat 3\.00/);
  await clip.focus();
  await page.keyboard.press('ArrowDown');
  await expect(
    page
      .locator('.lane')
      .nth(1)
      .getByRole('button', { name: /^Clip voice/ }),
  ).toBeVisible();
});

test('a drag on the beat ruler marks the loop, and playback goes round in it', async ({ page }) => {
  await build(page, 'Loop');
  const ruler = page.locator('.beat-ruler');
  await drag(page, ruler, 130, 0, { x: 9, y: 15 });
  await expect(page.locator('.loop-range')).toBeVisible();
  await page.getByLabel('Loop to bar').fill('1.5');
  await page.getByLabel('Loop to bar').press('Enter');
  await page.getByRole('button', { name: 'Play' }).click();
  // Beats in the order in which the playhead comes by.
  const beats = await page.getByLabel('Position').evaluate(async (position) => {
    const seen = [position.textContent.slice(0, 3)];
    while (seen.length < 5) {
      await new Promise(requestAnimationFrame);
      const beat = position.textContent.slice(0, 3);
      if (beat !== seen.at(-1)) seen.push(beat);
    }
    return seen;
  });
  expect(beats).toEqual(['1.1', '1.2', '1.1', '1.2', '1.1']);
});

test('sections are added, renamed and removed', async ({ page }) => {
  await build(page, 'Sections');
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  await page.getByRole('button', { name: 'Add a section at the playhead’s bar' }).click();
  await page.getByRole('button', { name: 'section', exact: true }).dblclick();
  await page.getByLabel('New name of the section section').fill('ebb');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'ebb', exact: true }).focus();
  await page.keyboard.press('Delete');
  await expect(page.locator('.section')).toHaveCount(0);
});

test('tempo is tapped, metre and key are chosen', async ({ page }) => {
  await build(page, 'Tempo');
  const times = await page.getByRole('button', { name: 'tap' }).evaluate(async (button) => {
    const tapped: number[] = [];
    for (let turn = 0; turn < 4; turn++) {
      if (turn > 0) await new Promise((resolve) => setTimeout(resolve, 450));
      tapped.push(performance.now());
      (button as HTMLButtonElement).click();
    }
    return tapped;
  });
  const tempo = Number(await page.getByLabel('Tempo in beats a minute').inputValue());
  expect(tempo / ((3 * 60000) / (times[3]! - times[0]!))).toBeCloseTo(1, 1);
  await page.getByLabel('Metre').selectOption('6/8');
  await page.getByLabel('Tonic').selectOption('D');
  await page.getByLabel('Mode', { exact: true }).selectOption('dorian');
  for (const [field, typed, range] of [
    ['Loop from bar', '99', 'a start from bar 1 to before its end, bar'],
    ['Loop from bar', 'soon', 'a start from bar 1 to before its end, bar'],
    ['Loop to bar', '1', 'an end behind its start, bar 1, not "1"'],
  ] as const) {
    await page.getByLabel(field).fill(typed);
    await page.getByLabel(field).press('Enter');
    await expect(page.getByRole('alert').filter({ hasText: 'The loop takes' })).toContainText(range);
  }
  await page.getByLabel('Loop from bar').fill('2');
  await page.getByLabel('Loop from bar').press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'The loop takes' })).toHaveCount(0);
  await page.getByLabel('Tempo in beats a minute').fill('900');
  await page.getByLabel('Tempo in beats a minute').press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'the tempo' })).toContainText('20 to 300');
});

test('an effect dragged onto another strip goes there, and one put down elsewhere stays', async ({ page }) => {
  await newSession(page, 'Dragged');
  for (let n = 0; n < 2; n++) await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await addEffect(page, 'Utility');
  await addEffect(page, 'Delay');
  const handleOf = (name: string) => page.getByRole('button', { name: `Move ${name}`, exact: true });
  const carry = async (to: { x: number; y: number }) => {
    const from = (await handleOf('Delay').boundingBox())!;
    await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 12 });
    await page.mouse.up();
  };
  await carry({ x: 640, y: 500 });
  await expect(page.getByRole('button', { name: /^Undo: Add/ })).toBeVisible();
  const strips = page.locator('[data-drop-strip]');
  const other = (await strips
    .filter({ has: page.locator('.member:not(.member-selected)') })
    .first()
    .boundingBox())!;
  await carry({ x: other.x + 60, y: other.y + 12 });
  await expect(page.getByRole('button', { name: /^Undo: Move Delay to Track/ })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Delay' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Utility' })).toHaveCount(0);
});

test('the cast scrolls along with the timeline, down to its last row, also above the bar of a clip', async ({
  page,
}) => {
  await openDemo(page);
  // It opens at its beginning, the cast beside it.
  for (const part of ['.timeline-scroll', '.cast-list'])
    expect(await page.locator(part).evaluate((box) => box.scrollTop)).toBe(0);
  /** Pixels that each has left to scroll, and where the main output stands in it. */
  const ends = () =>
    page.evaluate(() =>
      [
        ['.timeline-scroll', '.lane-main'],
        ['.cast-list', '.member-row:has(.member-main)'],
      ].map(([list, row]) => {
        const { scrollTop, scrollHeight, clientHeight } = document.querySelector(list!)!;
        return [
          scrollHeight - clientHeight - scrollTop,
          document.querySelector(row!)?.getBoundingClientRect().top ?? NaN,
        ];
      }),
    );
  const toEnd = (list: string) => page.locator(list).evaluate((element) => (element.scrollTop = 9999));
  for (const clip of [false, true]) {
    if (clip) await page.getByRole('button', { name: /^Clip harp/ }).click();
    for (const list of ['.cast-list', '.timeline-scroll']) {
      await page.locator('.timeline-scroll').evaluate((element) => (element.scrollTop = 0));
      await expect.poll(async () => (await ends()).every(([left]) => left! > 100)).toBe(true);
      await toEnd(list);
      await expect
        .poll(async () => {
          const [timeline, cast] = await ends();
          return [timeline![0], cast![0], cast![1]! - timeline![1]!];
        })
        .toEqual([0, 0, 0]);
    }
  }
});
