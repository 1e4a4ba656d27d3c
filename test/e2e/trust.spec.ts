import { connect } from 'node:net';
import { expect } from '@playwright/test';
import { test } from './server';
import type { StoredSession } from '@/core/protocol/http';
import {
  addEffect,
  bringIn,
  clickFile,
  loaded,
  newSession,
  openDemo,
  playheadMoves,
  saved,
  typeValue,
  voiceFile,
} from './studio';

test('edits made while saves are slow end in one session', async ({ page }) => {
  await newSession(page, 'Slow saves');
  const before = await page.request.get('/api/sessions').then((answer) => answer.json());
  let under = 0;
  let most = 0;
  await page.route('**/api/sessions/*', async (route) => {
    if (route.request().method() !== 'PUT') return route.continue();
    most = Math.max(most, ++under);
    const response = await route.fetch();
    await new Promise((resolve) => setTimeout(resolve, 2500));
    under--;
    await route.fulfill({ response });
  });
  await page.getByRole('button', { name: 'Add a track' }).click();
  for (let turn = 0; turn < 8; turn++) {
    await page.getByRole('button', { name: 'Mute Track 1' }).click();
    // The next edit comes while this one is being saved, or waits for it.
    await expect(page.locator('.save-state')).not.toHaveText('Saved');
  }
  await expect(page.locator('.save-state')).toHaveText('Saved', { timeout: 30000 });
  expect(most).toBe(1);
  const after = await page.request.get('/api/sessions').then((answer) => answer.json());
  expect(after.sessions.length).toBe(before.sessions.length);
  await expect(page.getByLabel('Name of the session')).toHaveValue('Slow saves');
});

test('a lost audio device is noticed, said, and played on from the same place', async ({ page }) => {
  await page.addInitScript(() => {
    const Real = AudioContext;
    const opened: AudioContext[] = [];
    Object.assign(window, { opened });
    window.AudioContext = class extends Real {
      constructor(options?: AudioContextOptions) {
        super(options);
        opened.push(this);
      }
    };
  });
  await newSession(page, 'Device');
  await bringIn(page, 'voice.wav', voiceFile(20));
  const seconds = async () => {
    const [bar, beat, part] = (await page.locator('.position').textContent())!.split('.').map(Number);
    return ((bar! - 1) * 4 + beat! - 1 + part! / 100) * 0.6;
  };
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(seconds, { timeout: 20000 }).toBeGreaterThan(2);
  const lose = () =>
    page.evaluate(async () => {
      const context = (window as unknown as { opened: AudioContext[] }).opened.at(-1)!;
      if (context.state !== 'closed') await context.close();
    });
  await lose();
  const said = page.getByRole('alert').filter({ hasText: 'Sound stopped: the audio device was lost' });
  await expect(said).toContainText('It was started again. It plays on from the same place.', { timeout: 20000 });
  const back = await seconds();
  expect(back).toBeGreaterThan(1.9);
  await expect.poll(seconds, { timeout: 20000 }).toBeGreaterThan(back + 1);
  const meter = page.locator('.main-meter .level').first();
  await expect.poll(async () => (await meter.boundingBox())!.width, { timeout: 20000 }).toBeGreaterThan(20);
  // What is lost again at once is not started for ever.
  await expect(async () => {
    await lose();
    await expect(page.getByRole('alert').filter({ hasText: 'could not be started again' })).toContainText(
      'press play',
      {
        timeout: 1000,
      },
    );
  }).toPass({ timeout: 20000 });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(seconds, { timeout: 20000 }).toBeGreaterThan(back + 1.5);
});

test('steps outlast a reload one by one', async ({ page }) => {
  await newSession(page, 'Steps');
  for (let turn = 0; turn < 3; turn++) await page.getByRole('button', { name: 'Add a track', exact: true }).click();
  await saved(page);
  await page.reload();
  await loaded(page);
  await page.getByRole('button', { name: 'Undo: Add a track' }).click();
  await expect(page.locator('[data-track]')).toHaveCount(2);
  await saved(page);
  await page.reload();
  await loaded(page);
  await page.getByRole('button', { name: 'Redo: Add a track' }).click();
  await expect(page.locator('[data-track]')).toHaveCount(3);
});

/** The status of the answer to a request written by hand. */
function statusOf(baseUrl: string, text: string): Promise<number> {
  return new Promise((resolve, reject) => {
    const socket = connect(Number(new URL(baseUrl).port), '127.0.0.1');
    socket.on('error', reject);
    socket.on('connect', () => socket.write(text));
    socket.on('data', (data) => {
      socket.destroy();
      resolve(Number(/^HTTP\/1\.1 (\d+)/.exec(String(data))?.[1]));
    });
  });
}

test('other host names are not answered, scripts are told by a number used once', async ({
  page,
  request,
  serverUrl,
}) => {
  for (const path of ['/', '/api/sessions', '/audio/worklet.js']) {
    const refused = await request.get(path, { headers: { host: 'evil.example' } });
    expect([path, refused.status()]).toEqual([path, 421]);
    const asked = await request.fetch(path, { method: 'OPTIONS', headers: { host: 'evil.example' } });
    expect([path, asked.status()]).toEqual([path, 421]);
  }
  expect(await statusOf(serverUrl, 'GET / HTTP/1.1\r\nHost: localhost\r\nHost: localhost\r\n\r\n')).toBe(421);
  expect(await statusOf(serverUrl, 'GET /api/sessions/%ff HTTP/1.1\r\nHost: localhost\r\n\r\n')).toBe(400);
  const nulled = await request.post('/api/sessions', { headers: { origin: 'null' }, data: { name: 'x' } });
  expect(nulled.status()).toBe(403);
  const violations: string[] = [];
  page.on('console', (message) => {
    if (message.text().includes('Content Security Policy')) violations.push(message.text());
  });
  const first = (await page.goto('/'))!.headers()['content-security-policy']!;
  expect(first).not.toContain("script-src 'self' 'unsafe-inline'");
  await openDemo(page);
  await page.goto('/nowhere/at/all');
  await expect(page.getByRole('heading', { name: 'nothing at this address' })).toBeVisible();
  expect(violations).toEqual([]);
});

test('shortcuts work while a ruler has the focus, and text keeps its keys', async ({ page }) => {
  await newSession(page, 'Keys');
  await bringIn(page, 'voice.wav', voiceFile(3));
  await addEffect(page, 'Delay');
  const mix = page.getByRole('slider', { name: 'Delay Mix' }).first();
  await mix.focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('button', { name: /^Undo: Delay: Mix/ })).toBeEnabled();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /^Undo: Delay: Mix/ })).toHaveCount(0);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await page.keyboard.press('o');
  await expect(page.getByRole('button', { name: 'Loop', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Control+a');
  await expect(page.locator('.clip-selected')).toHaveCount(1);
  expect(await page.evaluate(() => getSelection()!.toString())).toBe('');
  const name = page.getByLabel('Name of the session');
  await name.click();
  await page.keyboard.press('End');
  await page.keyboard.type(' o o');
  await page.keyboard.press('Enter');
  await expect(name).toHaveValue('Keys o o');
});

test('a note value that does not fit the tempo is refused where it is typed, and the tempo that would not fit it', async ({
  page,
}) => {
  await newSession(page, 'Notes');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Delay');
  const left = page.getByRole('slider', { name: 'Delay Left' }).first();
  await typeValue(left, '4 bars');
  await expect(left).toHaveAttribute('aria-valuetext', /^4 bars/);
  await page.getByLabel('Tempo in beats a minute').fill('60');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: '4 bars at 60 BPM would be 16 s' })).toBeVisible();
  await typeValue(left, '3/16');
  await expect(left).toHaveAttribute('aria-valuetext', /^1\/8 dotted/);
  // The matter is settled: the message has left.
  await expect(page.getByRole('alert').filter({ hasText: 'would be 16 s' })).toHaveCount(0);
});

test('a follower made on a control follows what goes into the effect', async ({ page }) => {
  await newSession(page, 'Follow');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Delay');
  await page.getByRole('slider', { name: 'Delay Mix' }).hover();
  await page.getByRole('button', { name: 'Delay Mix: move it with a modulator' }).click();
  await page.getByRole('button', { name: 'Follower', exact: true }).click();
  await expect(page.getByLabel(/listens to$/)).toHaveValue('>input');
  await expect(page.getByRole('alert').filter({ hasText: /\w/ })).toHaveCount(0);
});

test('a runaway is stopped and said; one press resumes', async ({ page }) => {
  await newSession(page, 'Runaway');
  await bringIn(page, 'click.wav', clickFile());
  await addEffect(page, 'Utility');
  const fader = page.getByRole('slider', { name: 'Level' }).last();
  await typeValue(page.getByRole('slider', { name: 'Utility Gain' }).first(), '24dB');
  await typeValue(fader, '12dB');
  await page.getByRole('button', { name: 'Play' }).click();
  const notice = page.getByRole('alert').filter({ hasText: 'above +6 dBFS' });
  await expect(notice).toBeVisible();
  await notice.getByRole('button', { name: 'Hear it again' }).click();
  await expect(notice).toHaveCount(0);
  await expect(page.getByRole('button', { name: /samples over full scale\. Clear/ }).first()).toBeVisible();
});

test('a bounce tells its figures, offers the level that fits, and forgets them when a setting changes', async ({
  page,
}) => {
  await newSession(page, 'Figures');
  await bringIn(page, 'voice.wav', voiceFile());
  await addEffect(page, 'Utility');
  await typeValue(page.getByRole('slider', { name: 'Utility Gain' }).first(), '12dB');
  await page.getByRole('button', { name: 'Bounce' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Bounce', exact: true }).click();
  await expect(dialog.getByText(/^\d+ over full scale/)).toBeVisible({ timeout: 30000 });
  await dialog.getByRole('button', { name: /^Bounce at -\d+\.\d dB, to -1 dBTP/ }).click();
  await expect(dialog.getByText('none', { exact: true })).toBeVisible({ timeout: 30000 });
  await expect(dialog.getByText(/-1\.0 dBTP/)).toBeVisible();
  await dialog.getByLabel('Format').selectOption('16');
  await expect(dialog.getByText(/^Done/)).toHaveCount(0);
  await expect(dialog.getByRole('link', { name: /^Save/ })).toHaveCount(0);
});

test('a written level lane moves its own fader alone', async ({ page }) => {
  await newSession(page, 'Faders');
  await bringIn(page, 'voice.wav', voiceFile(4));
  const chain = page.getByRole('region', { name: /signal path/i });
  const level = chain.getByRole('slider', { name: / Level$/ });
  await page.getByRole('button', { name: 'Write automation' }).click();
  await page.getByRole('button', { name: 'Play' }).click();
  await expect(page.getByLabel('Position')).not.toHaveText(/^1\.1\.0/);
  const box = (await level.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.4, box.y + 8);
  await page.mouse.down();
  for (let step = 0; step < 12; step++) {
    await page.mouse.move(box.x + box.width * 0.4 - step * 4, box.y + 8);
    await playheadMoves(page);
  }
  await page.mouse.up();
  await page.keyboard.press('Space');
  await expect(page.getByRole('group', { name: /^Lane of Level/ })).toBeVisible();
  await page.locator('.member-name').filter({ hasText: 'Main' }).click();
  await expect(level).toHaveAttribute('aria-valuetext', '0.0 dB');
});

test('a key dragged onto a strip with several effects that listen asks which', async ({ page }) => {
  await newSession(page, 'Keys by drag');
  await bringIn(page, 'voice.wav', voiceFile());
  await bringIn(page, 'pad.wav', voiceFile(2));
  await addEffect(page, 'Delay');
  await addEffect(page, 'Compressor');
  await page.getByRole('button', { name: 'Routing', exact: true }).click();
  await page.getByLabel('Out of voice').dragTo(page.getByLabel('Key of pad'));
  const dialog = page.getByRole('dialog', { name: 'What is to listen to voice?' });
  await dialog.getByRole('button', { name: /^Compressor/ }).click();
  await expect(dialog).toHaveCount(0);
  await expect(page.locator('.signal-key')).toHaveCount(1);
  await expect(page.getByText('voice keys Compressor on pad.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo: Key Compressor on pad from voice' })).toBeVisible();
});

test('a ring that never decays is captioned so, and an effect that broke is marked', async ({ page }) => {
  await newSession(page, 'Endless');
  await bringIn(page, 'hot.wav', voiceFile());
  await addEffect(page, 'Delay');
  await typeValue(page.getByRole('slider', { name: 'Delay Feedback' }).first(), '100');
  await page.getByRole('button', { name: 'Effect', exact: true }).click();
  await expect(page.getByText('never falls silent')).toBeVisible({ timeout: 30000 });
  await saved(page);
  // So many gains in a row that the last one has no figure for what comes out.
  const { document } = (await (
    await page.request.get(`/api${new URL(page.url()).pathname.replace('session', 'sessions')}`)
  ).json()) as StoredSession;
  const [track] = Object.values(document.tracks);
  for (let n = 0; n < 36; n++) {
    const id = `gain-${n}`;
    document.inserts[id] = { id, effect: 'utility', bypass: false, values: { gain: 24 }, inputs: {}, notesFrom: null };
    track!.insertIds.push(id);
  }
  const made = await page.request.post('/api/sessions', { data: { name: 'Beyond figures', document } });
  await page.goto(`/session/${((await made.json()) as StoredSession).id}`);
  await loaded(page);
  await page.getByRole('button', { name: 'Play' }).click();
  const mark = page.getByRole('button', { name: /^Utility broke and was reset \d+ times\. Clear/ }).first();
  await expect(mark).toBeVisible();
});
