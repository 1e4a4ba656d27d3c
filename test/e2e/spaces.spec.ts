import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { addEffect, bringIn, newSession, saved, typeValue, voiceFile } from './studio';

const chain = (page: Page) => page.locator('.chain');
const figures = (page: Page) => page.getByLabel('Measured on the engine’s answer to a click');

async function openLarge(page: Page, effect: string): Promise<void> {
  await chain(page).getByRole('button', { name: effect, exact: true }).click();
  await expect(page.getByRole('heading', { name: effect, level: 2 })).toBeVisible();
}

test('a room is set by its decay, its plan and its parts, by hand and by keyboard', async ({ page }) => {
  await newSession(page, 'A room of its own');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Reverb');
  await openLarge(page, 'Reverb');
  await expect(page.getByRole('img', { name: /Decay by octave.*1 kHz (1\.9|2\.0)\d s/ })).toBeVisible({
    timeout: 20000,
  });
  await expect(figures(page)).toContainText(/Decay, T30(1\.\d+|2\.\d+) s/);

  // An octave up by keys: its target moves, and the engine's own decay after it.
  const point = page.getByRole('slider', { name: 'Decay target at 4 kHz' });
  await point.focus();
  const before = Number(await point.getAttribute('aria-valuenow'));
  for (let n = 0; n < 10; n++) await page.keyboard.press('ArrowUp');
  await expect.poll(async () => Number(await point.getAttribute('aria-valuenow'))).toBeGreaterThan(1.3 * before);
  await expect(page.getByRole('img', { name: /Decay by octave.*4 kHz 2\.\d\d s/ })).toBeVisible({ timeout: 20000 });

  // The same by dragging, as one step.
  const box = (await point.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x, box.y + 60, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => Number(await point.getAttribute('aria-valuenow'))).toBeLessThan(1.3 * before);
  await page.getByRole('button', { name: /^Undo: Reverb: decay by octave/ }).click();
  await expect.poll(async () => Number(await point.getAttribute('aria-valuenow'))).toBeGreaterThan(1.3 * before);

  // Typed in seconds, and the highs tilted: 4 kHz goes half of the way of 16 kHz.
  const typed = page.getByLabel('Target at 4 kHz in seconds');
  await typed.fill('1.5');
  await typed.press('Enter');
  await expect(point).toHaveAttribute('aria-valuenow', '1.5');
  const end = page.getByRole('slider', { name: 'Decay target at 16 kHz' });
  const highs = Number(await end.getAttribute('aria-valuenow'));
  const tilt = page.getByRole('slider', { name: 'Tilt the highs of the decay' });
  await tilt.focus();
  for (let n = 0; n < 10; n++) await page.keyboard.press('ArrowDown');
  await expect.poll(async () => Number(await end.getAttribute('aria-valuenow'))).toBeLessThan(0.7 * highs);
  const ratio = Number(await end.getAttribute('aria-valuenow')) / highs;
  expect(Number(await point.getAttribute('aria-valuenow')) / 1.5).toBeCloseTo(Math.sqrt(ratio), 1);

  // A source at the left wall changes what is measured; the tail alone has no first reflections.
  const source = page.getByRole('slider', { name: 'Source in the room' });
  await source.focus();
  for (let n = 0; n < 8; n++) await page.keyboard.press('ArrowLeft');
  await expect(source).toHaveAttribute('aria-valuetext', '24 % across, 25 % along');
  const clarity = await figures(page).getByText('Clarity C50').locator('..').textContent();
  await page.getByRole('button', { name: 'tail', exact: true }).click();
  await expect
    .poll(async () => figures(page).getByText('Clarity C50').locator('..').textContent(), { timeout: 20000 })
    .not.toBe(clarity);

  // Its impulse shows both parts whatever is listened to: the first reflections come before the tail.
  await page.getByRole('button', { name: 'Impulse', exact: true }).click();
  const parts = page.getByRole('img', { name: /Echogram from the engine.*the first after early/ });
  await expect(parts).toBeVisible({ timeout: 20000 });
  await expect(page.locator('.bar-of-2')).not.toHaveCount(0);
  await saved(page);
});

test('an impulse is chosen by what it is, prepared beside, and then heard', async ({ page }) => {
  await newSession(page, 'Through a place');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Convolution');
  await openLarge(page, 'Convolution');
  await page.getByRole('button', { name: 'Impulse Washroom', exact: true }).click();
  await expect(page.getByText('Tiles on the walls', { exact: false })).toBeVisible();
  await expect(page.getByRole('img', { name: /Decay by octave.*1 kHz [1-4]\.\d\d s/ })).toBeVisible({ timeout: 40000 });
  await expect(chain(page).getByText('being prepared', { exact: false })).toHaveCount(0, { timeout: 40000 });
  // Its end and its fades are dragged on its picture; another impulse comes as it is, this one as it was left.
  const end = page.getByRole('slider', { name: 'End of the impulse' });
  const grip = (await end.boundingBox())!;
  await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2);
  await page.mouse.down();
  await page.mouse.move(grip.x - 120, grip.y + grip.height / 2, { steps: 6 });
  await page.mouse.up();
  const shortened = Number(await end.getAttribute('aria-valuenow'));
  expect(shortened).toBeGreaterThan(60);
  expect(shortened).toBeLessThan(85);
  await page.getByRole('slider', { name: 'Fade in of the impulse' }).press('ArrowRight');
  await expect(page.getByRole('slider', { name: 'Fade in of the impulse' })).toHaveAttribute('aria-valuenow', '5');
  await page.getByRole('button', { name: 'Impulse Closet', exact: true }).click();
  await expect(end).toHaveAttribute('aria-valuenow', '100');
  await page.getByRole('button', { name: 'Impulse Washroom', exact: true }).click();
  await expect(end).toHaveAttribute('aria-valuenow', String(shortened));
  const file = { name: 'yard.wav', mimeType: 'audio/wav', buffer: voiceFile(2) };
  await page.getByLabel('Impulse file').setInputFiles(file);
  await expect(page.getByRole('button', { name: 'Impulse yard.wav', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
    {
      timeout: 30000,
    },
  );
  await expect(end).toHaveAttribute('aria-valuenow', '100');
  await page.getByRole('button', { name: 'Undo: Convolution: yard.wav' }).click();
  const dropped = await page.evaluateHandle(
    (bytes) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(bytes)], 'cave.wav', { type: 'audio/wav' }));
      return data;
    },
    [...voiceFile(3)],
  );
  await page.locator('.impulse-list').dispatchEvent('drop', { dataTransfer: dropped });
  await expect(page.getByRole('button', { name: 'Impulse cave.wav', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
    {
      timeout: 30000,
    },
  );
  await page.getByRole('button', { name: 'Undo: Convolution: cave.wav' }).click();
  // A thing rather than a place is told by its tone.
  await page.getByRole('button', { name: 'Impulse Telephone', exact: true }).click();
  await expect(page.getByRole('img', { name: /Response of the effect/ })).toBeVisible({ timeout: 20000 });
  await page.getByRole('button', { name: /^Undo: Convolution: Telephone/ }).click();
  await expect(page.getByRole('button', { name: 'Impulse Washroom', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await saved(page);
});

test('a place that is not there is measured by a sweep, kept, and a reverb is matched to it', async ({ page }) => {
  await newSession(page, 'Measured');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Convolution');
  await openLarge(page, 'Convolution');
  await page.getByLabel('Search impulses').fill('stone');
  await expect(page.getByRole('button', { name: 'Impulse Closet', exact: true })).toHaveCount(0);
  await page.getByLabel('Search impulses').fill('');
  await page.getByRole('button', { name: 'Make one' }).click();
  await page.getByRole('tab', { name: 'Measure a place' }).click();
  await typeValue(page.getByRole('slider', { name: 'Sweep Length' }), '2');
  const [sweep] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save the sweep' }).click(),
  ]);
  expect(sweep.suggestedFilename()).toBe('sweep 2 s.wav');
  await page.getByRole('button', { name: 'Record there' }).click();
  const figures = page.getByLabel('What the recording says');
  await expect(figures).toContainText(/Recorder fast by(39\.[5-9]|40\.\d) ppm/, { timeout: 60000 });
  await page.getByRole('button', { name: 'Keep and use' }).click();
  await expect(page.getByRole('button', { name: 'Impulse Rehearsal room, measured.wav', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
    { timeout: 30000 },
  );
  await page.getByRole('button', { name: 'Favourite: Rehearsal room, measured.wav' }).click();
  await expect(page.getByRole('group', { name: 'Favourites' })).toContainText('measured');

  await addEffect(page, 'Reverb');
  await openLarge(page, 'Reverb');
  await page.getByRole('button', { name: 'Match to an impulse' }).click();
  await expect(page.getByRole('button', { name: 'Use these settings' })).toBeVisible({ timeout: 60000 });
  await page.getByLabel('Impulse to match').selectOption({ label: 'Rehearsal room, measured.wav' });
  await expect(page.getByText(/^[789] of [89] octaves within a tenth of Rehearsal room, measured/)).toBeVisible({
    timeout: 60000,
  });
  await page.getByRole('button', { name: 'Use these settings' }).click();
  await page.getByRole('button', { name: 'Undo: Reverb: matched to Rehearsal room, measured.wav' }).click();
  await saved(page);
});

test('an impulse is worked out by a simulator, and the work can be given up', async ({ page }) => {
  await newSession(page, 'Simulated');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Convolution');
  await openLarge(page, 'Convolution');
  await page.getByRole('button', { name: 'Make one' }).click();
  await typeValue(page.getByRole('slider', { name: 'Simulated Width' }), '50');
  await typeValue(page.getByRole('slider', { name: 'Simulated Length' }), '90');
  await page.getByRole('button', { name: 'Create and use' }).click();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('button', { name: 'Create and use' })).toBeEnabled();
  await page.getByLabel('Kind', { exact: true }).selectOption('pipe');
  await page.getByLabel('Name of the impulse').fill('Speaking tube of mine');
  await page.getByRole('button', { name: 'Create and use' }).click();
  await expect(page.getByRole('button', { name: 'Impulse Speaking tube of mine.wav', exact: true })).toBeVisible({
    timeout: 30000,
  });
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as WAV' }).click(),
  ]);
  expect(file.suggestedFilename()).toBe('Speaking tube of mine.wav');
});
