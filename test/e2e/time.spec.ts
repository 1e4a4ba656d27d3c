import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { writeWav } from '@/core/formats/wav';
import { addEffect, bounce, bringIn, newSession, openDemo, saved, typeValue } from './studio';

const RATE = 48000;
const main = (page: Page) => page.getByRole('group', { name: /^Controls of/ });
const group = (page: Page, name: string) => page.getByRole('region', { name, exact: true });
const undo = (page: Page) => page.getByRole('button', { name: /^Undo/ }).click();

/** Full-scale frames a quarter of a second apart. */
function clicksFile(seconds: number): Buffer {
  const samples = new Float32Array(RATE * seconds);
  for (let frame = 0; frame < samples.length; frame += RATE / 4) samples[frame] = 0.5;
  return Buffer.from(writeWav({ sampleRateHz: RATE, channels: [samples] }, '32f'));
}

/** Opens the effect that was just added, large. */
async function openEffect(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
}

test('a flanger is built on the repeats alone: a swaying line fed by another, true in the bounce', async ({ page }) => {
  await newSession(page, 'Repeats that sway');
  await bringIn(page, 'clicks.wav', clicksFile(4));
  await addEffect(page, 'Delay');
  await openEffect(page);
  await typeValue(main(page).getByRole('slider', { name: 'Left' }), '100ms');
  await typeValue(main(page).getByRole('slider', { name: 'Feedback' }), '0');
  await typeValue(main(page).getByRole('slider', { name: 'Mix' }), '50');
  await page.getByRole('button', { name: 'Use line 2' }).click();
  await typeValue(main(page).getByRole('slider', { name: 'Left' }), '2ms');
  await typeValue(main(page).getByRole('slider', { name: 'Feedback' }), '0');
  await typeValue(group(page, 'Sway 2').getByRole('slider', { name: 'Depth' }), '50');
  await typeValue(group(page, 'Sway 2').getByRole('slider', { name: 'Rate' }), '0.5');

  await page.getByRole('button', { name: 'Flow', exact: true }).click();
  const flow = page.getByRole('img', { name: /^Flow/ });
  await expect(flow).toHaveAccessibleName('Flow: line 1 is fed by the input; line 2 is fed by the input');
  await page.getByRole('button', { name: 'Input into line 2: 100 %' }).dblclick();
  await expect(page.getByRole('button', { name: 'Custom matrix' })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'Line 1 into line 2: 0 %' }).dblclick();
  await expect(flow).toHaveAccessibleName('Flow: line 1 is fed by the input; line 2 is fed by line 1');
  await undo(page);
  await expect(flow).toHaveAccessibleName('Flow: line 1 is fed by the input; line 2 is fed by nothing');
  await page.getByRole('button', { name: /^Redo/ }).click();
  await saved(page);
  await page.reload();
  await openEffect(page);
  await page.getByRole('button', { name: 'Flow', exact: true }).click();
  await expect(flow).toHaveAccessibleName('Flow: line 1 is fed by the input; line 2 is fed by line 1');

  const [left] = await bounce(page);
  const level = 0.5 * Math.SQRT1_2;
  const found: number[] = [];
  for (let frame = 0; frame < 4 * RATE; frame += RATE / 4) {
    // The dry click and its repeat stand on their frames, and nothing sways beside the dry one.
    expect(left![frame]).toBeCloseTo(level, 5);
    const repeat = frame + 0.1 * RATE;
    expect(left![repeat]).toBeCloseTo(level, 5);
    for (let n = 20; n < 200; n++) expect(Math.abs(left![frame + n]!)).toBeLessThan(1e-6);
    // Behind the repeat comes its copy: where its middle is, and how loud it is.
    let sum = 0;
    let moment = 0;
    for (let n = 30; n < 170; n++) {
      sum += left![repeat + n]!;
      moment += n * left![repeat + n]!;
    }
    expect(Math.abs(sum / level - 1)).toBeLessThan(0.02);
    const delay = moment / sum;
    found.push(delay);
    const time = (repeat + delay) / RATE;
    expect(Math.abs(delay - 96 * (1 + 0.5 * Math.sin(2 * Math.PI * 0.5 * time)))).toBeLessThan(0.5);
  }
  expect(Math.max(...found) - Math.min(...found)).toBeGreaterThan(80);
});

test('a modulator moves a control: its band is on the ruler, it is listed, kept, undone and in the bounce', async ({
  page,
}) => {
  await newSession(page, 'Moved');
  await page.getByRole('button', { name: 'Library' }).click();
  await page.getByRole('button', { name: /^Sine, 1 kHz/ }).click();
  await expect(page.getByRole('button', { name: /^Clip Sine, 1 kHz/ })).toBeVisible({ timeout: 30000 });
  await page.getByRole('button', { name: 'Close library' }).click();
  await addEffect(page, 'Utility');
  await openEffect(page);
  const plain = await bounce(page);

  const gain = main(page).getByRole('slider', { name: 'Gain' });
  await gain.hover();
  await main(page).getByRole('button', { name: 'Gain: move it with a modulator' }).click();
  await page.getByRole('button', { name: 'Oscillator', exact: true }).click();
  const drawer = page.getByRole('region', { name: 'Modulators' });
  await expect(drawer.getByRole('region', { name: 'Oscillator 1' })).toContainText('moves 1');
  await typeValue(drawer.getByRole('slider', { name: 'Oscillator 1 Rate' }), '2');
  await typeValue(drawer.getByRole('slider', { name: /^Oscillator 1 on Utility: Gain: Depth/ }), '-10');
  await drawer.getByLabel('Oscillator 1 on Utility: Gain: direction').selectOption('up');
  await expect(main(page).getByTestId('moved-band')).toBeVisible();

  const moved = await bounce(page);
  const levels = Array.from({ length: 60 }, (_, n) => {
    const part = moved[0]!.slice(4800 + n * 2400, 4800 + n * 2400 + 480);
    return Math.sqrt(part.reduce((sum, x) => sum + x * x, 0) / part.length);
  });
  const before = Math.sqrt(plain[0]!.slice(48000, 48480).reduce((sum, x) => sum + x * x, 0) / 480);
  // A depth below zero turned "only up" over: never louder than before, and a good way softer.
  expect(20 * Math.log10(Math.max(...levels) / before)).toBeLessThan(0.1);
  expect(20 * Math.log10(Math.min(...levels) / before)).toBeLessThan(-2);

  await page.getByRole('button', { name: 'Close modulators' }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect
    .poll(() =>
      main(page)
        .locator('.ruler-moved-now')
        .evaluate((line) => line.getAttribute('x1')),
    )
    .not.toBeNull();
  const places = new Set<string | null>();
  await expect
    .poll(async () => {
      const now = main(page).locator('.ruler-moved-now');
      return places.add(await now.evaluate((line) => line.getAttribute('x1'))).size;
    })
    .toBeGreaterThan(3);
  await page.getByRole('button', { name: 'Stop' }).click();

  await saved(page);
  await page.reload();
  await page.getByRole('button', { name: 'Modulators' }).click();
  await expect(drawer.getByRole('region', { name: 'Oscillator 1' })).toContainText('moves 1');
  await drawer.getByRole('button', { name: 'Remove Oscillator 1' }).click();
  await expect(drawer.getByRole('region', { name: 'Oscillator 1' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Close modulators' }).click();
  await undo(page);
  await page.getByRole('button', { name: 'Modulators' }).click();
  await expect(drawer.getByRole('region', { name: 'Oscillator 1' })).toContainText('moves 1');
});

test('a pattern turns a switch, which tells where it is, and the bounce has it', async ({ page }) => {
  await newSession(page, 'Turned');
  await bringIn(page, 'clicks.wav', clicksFile(4));
  await addEffect(page, 'Utility');
  await openEffect(page);
  await page.getByRole('switch', { name: 'Flip left' }).hover();
  await page.getByRole('button', { name: 'Flip left: move it with a modulator' }).click();
  await page.getByRole('button', { name: 'Pattern', exact: true }).click();
  const drawer = page.getByRole('region', { name: 'Modulators' });
  await typeValue(drawer.getByRole('slider', { name: 'Pattern 1 Rate' }), '2');
  const steps = drawer.getByRole('slider', { name: /^Pattern 1, step/ });
  await drawer.getByLabel('Pattern 1: number of steps').selectOption('2');
  await expect(steps).toHaveCount(2);
  for (const [step, key] of [
    [0, 'ArrowDown'],
    [1, 'ArrowUp'],
  ] as const) {
    await steps.nth(step).focus();
    for (let press = 0; press < 40; press++) await page.keyboard.press(key);
  }
  await expect(steps.nth(1)).toHaveAttribute('aria-valuenow', '1');
  await page.getByRole('button', { name: 'Close modulators' }).click();
  const [left, right] = await bounce(page);
  const signs = Array.from({ length: 16 }, (_, click) => Math.sign(left![click * 12000]! * right![click * 12000]!));
  // Half a second as it is, half a second turned over; the clicks at the turns are on their way.
  expect(signs.filter((_, click) => click % 2 === 1)).toEqual([1, -1, 1, -1, 1, -1, 1, -1]);
  await page.getByRole('button', { name: 'Play' }).click();
  const now = page.getByTestId('moved-now').first();
  await expect(now).toHaveText('on');
  await expect(now).toHaveText('off');
});

test('exaggerate overdoes an effect while it is held and leaves no trace; the difference is heard alone', async ({
  page,
}) => {
  await openDemo(page);
  await page.locator('.member-name').filter({ hasText: 'Nylon harp' }).click();
  await addEffect(page, 'Flanger');
  await openEffect(page);
  const depth = main(page).getByRole('slider', { name: 'Depth' });
  await typeValue(depth, '20');
  const hold = page.getByRole('button', { name: 'Exaggerate' });
  const box = (await hold.boundingBox())!;
  await page.mouse.move(box.x + 10, box.y + 10);
  await page.mouse.down();
  await expect(depth).toHaveAttribute('aria-valuetext', '50 %');
  await page.mouse.up();
  await expect(depth).toHaveAttribute('aria-valuetext', '20 %');
  await expect(page.getByRole('button', { name: 'Undo: Flanger: Depth' })).toBeVisible();
  await hold.focus();
  await page.keyboard.down('Enter');
  await expect(depth).toHaveAttribute('aria-valuetext', '50 %');
  await page.keyboard.up('Enter');
  await expect(depth).toHaveAttribute('aria-valuetext', '20 %');

  await page.getByRole('button', { name: 'Difference' }).click();
  await expect(page.getByRole('button', { name: 'Difference' })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'Difference' }).click();
  await expect(page.getByRole('button', { name: 'Difference' })).toHaveAttribute('aria-pressed', 'false');
});

test('a line is copied onto another, muted and soloed; the picture shows each line and zooms', async ({ page }) => {
  await newSession(page, 'Lines');
  await bringIn(page, 'clicks.wav', clicksFile(1));
  await addEffect(page, 'Delay');
  await openEffect(page);
  await typeValue(main(page).getByRole('slider', { name: 'Left' }), '250ms');
  await typeValue(group(page, 'Time 1').getByRole('slider', { name: 'Right ratio' }), '75');
  await expect(page.getByRole('img', { name: /^Echogram/ })).toHaveAccessibleName(/188 ms, -/);
  await page.getByRole('button', { name: 'Copy line 1 onto another' }).click();
  await page.getByRole('button', { name: 'Line 3', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Line 3, 250 ms' })).toHaveAttribute('aria-pressed', 'true');
  await typeValue(main(page).getByRole('slider', { name: 'Left' }), '400ms');
  const picture = page.getByRole('img', { name: /^Echogram/ });
  await expect(picture).toHaveAccessibleName(/the first after line 1, 188 ms, -/);
  await page.getByRole('button', { name: 'Mute line 1', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Mute line 1', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await expect(picture).toHaveAccessibleName(/the first after line 3, 300 ms/);
  await page.getByRole('button', { name: 'Solo line 3' }).click();
  await page.getByRole('button', { name: 'Show milliseconds' }).click();
  const before = await page.locator('.echogram-reading').textContent();
  await page.getByRole('button', { name: 'Show less time' }).click();
  await expect(page.locator('.echogram-reading')).not.toHaveText(before!);
  await page.getByRole('button', { name: 'All', exact: true }).click();
  await expect(page.locator('.echogram-reading')).toHaveText(before!);
  await page.getByRole('button', { name: /^Impulse of the whole chain/ }).click();
  await expect(picture).toBeVisible();
  await expect(main(page).getByRole('slider', { name: 'Mix' })).toBeVisible();
});
