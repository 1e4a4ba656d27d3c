import { expect, type Page } from '@playwright/test';
import { test } from './server';
import { readFileSync } from 'node:fs';
import { writeMidiFile } from '@/core/formats/midi';
import { writeWav } from '@/core/formats/wav';
import {
  addEffect,
  beatPasses,
  bounce,
  bringIn,
  newSession,
  openDemo,
  playheadMoves,
  saved,
  typeValue,
} from './studio';

/** How strong a frequency is in a stretch of a sound, with a Hann window. */
function strength(sound: Float32Array, hz: number): number {
  let [re, im] = [0, 0];
  sound.forEach((x, n) => {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / sound.length);
    re += w * x * Math.cos((2 * Math.PI * hz * n) / RATE);
    im += w * x * Math.sin((2 * Math.PI * hz * n) / RATE);
  });
  return Math.hypot(re, im);
}

const RATE = 48000;
const keyHz = (key: number) => 440 * 2 ** ((key - 69) / 12);

/** A voice that holds a vowel without end. */
function vowelFile(seconds: number): Buffer {
  const samples = Float32Array.from({ length: seconds * RATE }, (_, n) => {
    let sum = 0;
    for (let k = 1; k <= 24; k++)
      sum += Math.cos((2 * Math.PI * k * 147 * n) / RATE) / (1 + Math.abs(k * 147 - 700) / 400);
    return 0.07 * sum;
  });
  return Buffer.from(writeWav({ sampleRateHz: RATE, channels: [samples] }, '24'));
}

const notes = (page: Page) => page.locator('.note');

/** A session with a synth alone, its notes open. */
async function synthNotes(page: Page, name: string): Promise<void> {
  await newSession(page, name);
  await page
    .getByRole('button', { name: 'Add a track' })
    .or(page.getByRole('button', { name: 'tracks' }))
    .first()
    .click();
  await addEffect(page, 'Synth');
  await page.getByRole('button', { name: /Open the notes of Synth/ }).click();
}

test('a vocoder is built from nothing, four notes are played on the screen, and they are what sounds in the bounce', async ({
  page,
}) => {
  await newSession(page, 'A vowel that speaks');
  await bringIn(page, 'vowel.wav', vowelFile(12));
  await addEffect(page, 'Vocoder');
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  await page.getByRole('button', { name: /^Carrier section, \d+ more/ }).click();
  await page.getByRole('button', { name: /^Notes section, \d+ more/ }).click();
  await page
    .getByLabel('Vocoder, large: notes')
    .or(page.getByRole('combobox', { name: 'Notes', exact: true }))
    .first()
    .selectOption('lane');
  await typeValue(page.getByRole('slider', { name: 'Copies' }), '1');
  await typeValue(page.getByRole('slider', { name: 'Breath' }), '0');
  await page
    .getByRole('button', { name: /Open the notes of Vocoder/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Keyboard', exact: true }).click();
  await page.locator('.keyboard').getByRole('button', { name: 'write' }).click();
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  const played = [50, 53, 57, 60];
  for (const name of ['D3', 'F3', 'A3', 'C4']) {
    const key = page.locator('.keyboard').getByRole('button', { name: new RegExp(`^${name},`) });
    await playheadMoves(page);
    await key.hover();
    await page.mouse.down();
    await beatPasses(page);
    await page.mouse.up();
  }
  await page.keyboard.press('Space');
  await expect(notes(page)).toHaveCount(4);
  await saved(page);
  const written = await notes(page).evaluateAll((all) => all.map((one) => one.getAttribute('aria-label')!));
  expect(written.map((label) => label.split(',')[0])).toEqual(['D3', 'F3', 'A3', 'C4']);

  const [sound] = await bounce(page);
  // Where each note begins, from what the editor says of it: 100 beats a minute.
  const starts = await notes(page).evaluateAll((all) => all.map((one) => parseFloat((one as HTMLElement).style.left)));
  const perBeat = await page
    .locator('.note-bars')
    .evaluate((one) => parseFloat(getComputedStyle(one).backgroundSize) / 4);
  played.forEach((_, n) => {
    const from = Math.round(((starts[n]! / perBeat) * 60 * RATE) / 100 + 0.25 * RATE);
    const piece = sound!.subarray(from, from + Math.round(0.4 * RATE));
    const heard = played.map((one) => Math.hypot(...[2, 3, 4, 5].map((k) => strength(piece, k * keyHz(one)))));
    expect(heard.indexOf(Math.max(...heard))).toBe(n);
  });

  // Taken back one by one, and done again.
  await page.keyboard.press('Control+z');
  await expect(notes(page)).toHaveCount(3);
  await page.keyboard.press('Control+Shift+Z');
  await expect(notes(page)).toHaveCount(4);
});

test('notes are drawn, moved, transposed, put in by name, and go out and come in as a file', async ({ page }) => {
  await synthNotes(page, 'Notes alone');
  const chord = page.getByLabel('Chord at the playhead');
  await chord.fill('Am');
  await chord.press('Enter');
  await expect(notes(page)).toHaveCount(3);
  await page.getByRole('button', { name: 'A step of the key up' }).click();
  const names = () => notes(page).evaluateAll((all) => all.map((one) => one.getAttribute('aria-label')!.split(',')[0]));
  expect(await names()).toEqual(['B3', 'D4', 'F4']);
  // By keys alone, all that are chosen: an octave down, then a quarter note on.
  await notes(page).first().focus();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('ArrowRight');
  expect((await names()).sort()).toEqual(['B2', 'D3', 'F3']);
  const sheet = page.locator('.note-sheet');
  const draw = () => sheet.click({ position: { x: 300, y: (127 - 64) * 15 + 7 } });
  await draw();
  await expect(notes(page)).toHaveCount(4);
  // What has just been drawn is what keys are meant for.
  await page.keyboard.press('Delete');
  await expect(notes(page)).toHaveCount(3);
  await draw();
  await expect(notes(page)).toHaveCount(4);
  // They are in the row of the track as well, four of them.
  const small = await page.locator('[data-track] .row-notes path').getAttribute('d');
  expect(small!.match(/M/g)).toHaveLength(4);

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Take the notes out as a MIDI file' }).click(),
  ]);
  const path = await download.path();
  await page.keyboard.press('Escape');
  await page.locator('.note-scroll').press('Control+a');
  await page.locator('.note').first().focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Delete');
  await expect(notes(page)).toHaveCount(0);
  await page
    .getByLabel('MIDI file', { exact: true })
    .setInputFiles({ name: 'notes.mid', mimeType: 'audio/midi', buffer: readFileSync(path) });
  await page.getByRole('group', { name: 'MIDI file' }).getByRole('button', { name: 'Bring in' }).click();
  await expect(notes(page)).toHaveCount(4);
  await chord.fill('H7');
  await chord.press('Enter');
  await expect(page.getByText('"H7" is no chord.')).toBeVisible();
  await page
    .getByLabel('MIDI file', { exact: true })
    .setInputFiles({ name: 'broken.mid', mimeType: 'audio/midi', buffer: Buffer.from('MThd?') });
  await expect(page.getByText('This MIDI file cannot be read')).toBeVisible();
  await expect(notes(page)).toHaveCount(4);
});

test('thousands of notes are at hand, and those in sight are drawn', async ({ page }) => {
  await synthNotes(page, 'Many notes');
  const many = Array.from({ length: 4000 }, (_, n) => ({
    startBeat: n / 4,
    lengthBeats: 0.25,
    key: 48 + ((n * 7) % 36),
    velocity: 64 + (n % 64),
  }));
  const file = writeMidiFile([{ name: 'Many', notes: many }], { tempoBpm: 120, metreBeats: 4, metreUnit: 4 });
  await page
    .getByLabel('MIDI file', { exact: true })
    .setInputFiles({ name: 'many.mid', mimeType: 'audio/midi', buffer: Buffer.from(file) });
  await page.getByRole('group', { name: 'MIDI file' }).getByRole('button', { name: 'Bring in' }).click();
  await page.keyboard.press('Escape');
  await expect(
    page
      .getByRole('button', { name: /^4000 notes/ })
      .or(page.getByText('4000 notes'))
      .first(),
  ).toBeVisible();
  // Nearer, so that little of it is in sight.
  for (let n = 0; n < 12; n++) await page.getByRole('button', { name: 'Zoom in' }).click();
  await expect.poll(() => notes(page).count()).toBeLessThan(400);
  expect(await notes(page).count()).toBeGreaterThan(10);
  // The one before the first is the last: it is far off, is drawn when it is chosen, and comes into sight.
  await notes(page).first().focus();
  await page.keyboard.press('[');
  const last = page.locator('.note:focus');
  await expect(last).toHaveAttribute('aria-label', /bar 250 beat 4/);
  await expect(last).toBeInViewport();
  await page.keyboard.press('Delete');
  await expect(page.getByText('3999 notes').first()).toBeVisible();
});

test('the pitch of a clip is drawn on the row of its note', async ({ page }) => {
  await newSession(page, 'A vowel that is looked at');
  await bringIn(page, 'vowel.wav', vowelFile(4));
  await page.getByRole('button', { name: /^Clip vowel/ }).click();
  await page.getByRole('button', { name: 'Pitch', exact: true }).click();
  // 147 Hz is D3.
  await expect(page.getByRole('button', { name: 'Pitch D3', exact: true })).toHaveAttribute('aria-pressed', 'true');
  const row = (await page.locator('.pitch-names').getByText('D3', { exact: true }).boundingBox())!;
  const line = (await page.locator('.pitch-line path').last().boundingBox())!;
  expect(Math.abs(line.y + line.height / 2 - (row.y + row.height / 2))).toBeLessThan(3);
  const clip = (await page.getByRole('button', { name: /^Clip vowel/ }).boundingBox())!;
  expect(line.width / clip.width).toBeGreaterThan(0.95);
  await page.getByRole('button', { name: 'Pitch D3', exact: true }).click();
  await expect(page.locator('.pitch-line')).toHaveCount(0);
});

test('a layer under the voice plays the chords that an instrument is heard to play', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Recipes', exact: true }).click();
  await page.getByRole('button', { name: /^Vocoded layer/ }).click();
  await expect(page.getByLabel('Who plays the chords?')).toHaveCount(0);
  await page.getByLabel('What does the layer play?').selectOption('found');
  await page.getByLabel('Who plays the chords?').selectOption({ label: 'Reed organ' });
  await page.getByRole('button', { name: 'Build it' }).click();
  // The fourth bar has no root: the organ plays C and A in it.
  await expect(page.getByText(/Its note lane holds the chords that Reed organ plays: Dm G Dm/)).toBeVisible({
    timeout: 60_000,
  });
  await page.getByRole('button', { name: 'Take it back' }).click();
});
