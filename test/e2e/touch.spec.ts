import { expect, type CDPSession, type Locator, type Page } from '@playwright/test';
import { test } from './server';
import { addEffect, bringIn, newSession, saved, voiceFile } from './studio';

test.use({ hasTouch: true });

type Finger = readonly [x: number, y: number];

/** Fingers that go down, move in steps and are lifted, as the browser takes them from a screen. */
async function swipe(client: CDPSession, ...courses: readonly (readonly [from: Finger, to: Finger])[]): Promise<void> {
  const at = (part: number) =>
    courses.map(([from, to], id) => ({
      id,
      x: from[0] + (to[0] - from[0]) * part,
      y: from[1] + (to[1] - from[1]) * part,
    }));
  await client.send('Input.dispatchTouchEvent', { type: 'touchStart', touchPoints: at(0) });
  for (let step = 1; step <= 8; step++)
    await client.send('Input.dispatchTouchEvent', { type: 'touchMove', touchPoints: at(step / 8) });
  await client.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
}

/** One finger on the middle of something, or beside it, that moves so far. */
async function dragByFinger(client: CDPSession, target: Locator, dx: number, dy: number, from?: Finger): Promise<void> {
  await target.scrollIntoViewIfNeeded();
  // What has just been opened may still be scrolling: it is looked at until it has stood still for a while.
  let box = { x: NaN, y: NaN, width: 0, height: 0 };
  await expect
    .poll(
      async () => {
        const before = box;
        box = (await target.boundingBox())!;
        return box.x === before.x && box.y === before.y;
      },
      { intervals: [150] },
    )
    .toBe(true);
  const { x, y, width, height } = box;
  const begin: Finger = from ? [x + from[0], y + from[1]] : [x + width / 2, y + height / 2];
  await swipe(client, [begin, [begin[0] + dx, begin[1] + dy]]);
}

const steps = (page: Page) => page.getByRole('button', { name: /^Undo: / });

test('one finger moves rulers, clips, points, things and notes, two zoom the timeline', async ({ page }) => {
  const client = await page.context().newCDPSession(page);
  await newSession(page, 'By hand');
  await bringIn(page, 'voice.wav', voiceFile(4));
  await addEffect(page, 'Delay');
  const chain = page.getByRole('region', { name: /signal path/i });

  const mix = chain.getByRole('slider', { name: 'Delay Mix' });
  const before = Number(await mix.getAttribute('aria-valuenow'));
  await dragByFinger(client, mix, 60, 0);
  await expect.poll(async () => Number(await mix.getAttribute('aria-valuenow'))).toBeGreaterThan(before);
  await expect(steps(page)).toHaveAccessibleName(/^Undo: Delay: Mix/);

  const clip = page.getByRole('button', { name: /^Clip voice/ });
  const left = (await clip.boundingBox())!.x;
  await dragByFinger(client, clip, 80, 0);
  await expect.poll(async () => (await clip.boundingBox())!.x).toBeGreaterThan(left + 40);

  await chain.getByRole('button', { name: 'Delay Mix: automate it with a lane' }).click();
  const lane = page.getByRole('group', { name: /^Lane of Delay: Mix/ });
  await lane.dblclick({ position: { x: 200, y: 30 } });
  await expect(lane).toHaveAccessibleName(/2 points/);
  await expect(steps(page)).not.toHaveAccessibleName(/move/i);
  await dragByFinger(client, lane, 0, -16, [200, 30]);
  await expect(steps(page)).toHaveAccessibleName(/move/i);

  const sheet = page.locator('.timeline-sheet');
  const width = (await sheet.boundingBox())!.width;
  const box = (await page.locator('.timeline-scroll').boundingBox())!;
  const [middle, low] = [box.x + box.width / 2, box.y + box.height - 40];
  await swipe(
    client,
    [
      [middle - 40, low],
      [middle - 160, low],
    ],
    [
      [middle + 40, low],
      [middle + 160, low],
    ],
  );
  await expect.poll(async () => (await sheet.boundingBox())!.width).toBeGreaterThan(2 * width);

  await page.locator('.timeline-scroll').evaluate((box) => box.scrollTo(0, 0));
  await page.getByRole('button', { name: 'Notes', exact: true }).click();
  await page.getByLabel('Chord at the playhead').fill('Dm7');
  await page.getByLabel('Chord at the playhead').press('Enter');
  const note = page.locator('.note').first();
  await expect(note).toBeVisible();
  const key = await note.getAttribute('aria-label');
  await dragByFinger(client, note, 0, -40);
  await expect(page.locator(`.note[aria-label="${key}"]`)).toHaveCount(0);

  await page.getByRole('button', { name: 'Stage', exact: true }).click();
  await page.getByRole('button', { name: 'Place it on the stage' }).click();
  const thing = page.locator('.thing');
  await expect(thing).toHaveAccessibleName(/ahead/);
  await dragByFinger(client, thing.locator('.thing-mark').first(), 90, 40);
  await expect(thing).toHaveAccessibleName(/right/);
  await saved(page);
});

test('a second finger takes back what the first has begun to move', async ({ page }) => {
  const client = await page.context().newCDPSession(page);
  await newSession(page, 'Two fingers');
  await bringIn(page, 'voice.wav', voiceFile(4));
  const clip = page.getByRole('button', { name: /^Clip voice/ });
  const { x, y } = (await clip.boundingBox())!;
  const [first, second] = [
    { id: 0, x: x + 30, y: y + 10 },
    { id: 1, x: x + 200, y: y + 90 },
  ];
  await client.send('Input.dispatchTouchEvent', { type: 'touchStart', touchPoints: [first] });
  for (const by of [20, 50, 80])
    await client.send('Input.dispatchTouchEvent', { type: 'touchMove', touchPoints: [{ ...first, x: first.x + by }] });
  await expect.poll(async () => (await clip.boundingBox())!.x).toBeGreaterThan(x + 20);
  await client.send('Input.dispatchTouchEvent', {
    type: 'touchStart',
    touchPoints: [{ ...first, x: first.x + 80 }, second],
  });
  await expect.poll(async () => (await clip.boundingBox())!.x).toBeCloseTo(x, 0);
  await client.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
  await expect(steps(page)).toHaveAccessibleName(/^Undo: Bring in voice/);
});
