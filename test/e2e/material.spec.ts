import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { resample } from '@/core/dsp/resampler';
import { writeFlac } from '@/core/formats/flac';
import { readSound } from '@/core/formats/readSound';
import { readWav, writeWav } from '@/core/formats/wav';
import '@/core/wasm/embedded';
import { test } from './server';
import { encodedSource, lag, LONG_FRAMES, longMp3 } from '../support/encodedSounds';
import { bounce, loaded, meterWidth, newSession, playheadMoves, saved } from './studio';

const RATE = 48000;

/** Channels of steady levels, 0.1, 0.2 and so on, which folding only adds. */
const steady = (count: number, seconds = 0.5) =>
  Array.from({ length: count }, (_, n) => new Float32Array(RATE * seconds).fill(0.1 * (n + 1)));

const fileOf = (name: string, channels: readonly Float32Array[]) => ({
  name,
  mimeType: 'audio/wav',
  buffer: Buffer.from(writeWav({ sampleRateHz: RATE, channels }, '32f')),
});

test('four channels are asked about, the choice is heard and bounced, and can be changed at the clip', async ({
  page,
}) => {
  await newSession(page, 'Four channels');
  await page.getByLabel('Sound files').setInputFiles(fileOf('quay.wav', steady(4)));
  const question = page.getByRole('dialog', { name: 'quay.wav' });
  await expect(question).toContainText('does not tell which speakers');
  await question.getByRole('button', { name: 'Leave it' }).click();
  await expect(page.locator('[data-track]')).toHaveCount(0);

  await page.getByLabel('Sound files').setInputFiles(fileOf('quay.wav', steady(4)));
  await question.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByRole('button', { name: /^Clip quay/ })).toBeVisible();
  await loaded(page);
  const middle = (channels: readonly Float32Array[]) => channels.map((channel) => channel[RATE / 4]!);
  const quad = middle(await bounce(page));
  expect(quad[0]).toBeCloseTo(0.1 + Math.SQRT1_2 * 0.3, 4);
  expect(quad[1]).toBeCloseTo(0.2 + Math.SQRT1_2 * 0.4, 4);

  const choice = page.getByLabel('What is heard of quay.wav', { exact: true });
  await choice.selectOption('one or two of the channels');
  await page.getByLabel('What is heard of quay.wav, left').selectOption('left 4');
  await saved(page);
  await page.reload();
  await loaded(page);
  const taken = middle(await bounce(page));
  expect(taken[0]).toBeCloseTo(0.4, 4);
  expect(taken[1]).toBeCloseTo(0.2, 4);
});

test('a folder is dropped: its sounds lie at the times that their files tell', async ({ page }) => {
  await newSession(page, 'Dropped');
  /** Silence with the time reference of a bext chunk. */
  const at = (seconds: number) => {
    const { buffer } = fileOf('', steady(1, 0.25));
    const bext = Buffer.alloc(8 + 602);
    bext.write('bext');
    bext.writeUInt32LE(602, 4);
    bext.writeUInt32LE(seconds * RATE, 8 + 338);
    return Buffer.concat([buffer, bext]).toString('base64');
  };
  const files = { 'b.wav': at(3602), 'a.wav': at(3600), 'read me.txt': '' };
  const data = await page.evaluateHandle((contents) => {
    const transfer = new DataTransfer();
    const entry = (name: string, text: string) => ({
      name,
      fullPath: `/stems/${name}`,
      isDirectory: false,
      file: (done: (file: File) => void) =>
        done(new File([Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0))], name)),
    });
    let some = Object.entries(contents).map(([name, text]) => entry(name, text));
    const readEntries = (done: (entries: unknown) => void) => {
      done(some);
      some = [];
    };
    const folder = { name: 'stems', fullPath: '/stems', isDirectory: true, createReader: () => ({ readEntries }) };
    transfer.items.add(new File([], 'stems'));
    Object.defineProperty(transfer, 'items', { value: [{ webkitGetAsEntry: () => folder }] });
    return transfer;
  }, files);
  await page.locator('.timeline').dispatchEvent('drop', { dataTransfer: data, clientX: 400, clientY: 400 });
  const question = page.getByRole('dialog', { name: '2 sounds' });
  await question.getByLabel('each at its own time').check();
  await question.getByRole('button', { name: 'Bring them in' }).click();
  const beatOf = async (name: string) => {
    const label = await page.getByRole('button', { name: new RegExp(`^Clip ${name}`) }).getAttribute('aria-label');
    return Number(/from beat ([\d.]+)/.exec(label!)![1]);
  };
  await expect(page.locator('[data-track]')).toHaveCount(2);
  // Two seconds at 100 beats a minute.
  expect((await beatOf('b')) - (await beatOf('a'))).toBeCloseTo(10 / 3, 1);
});

test('AAC becomes WAV in its place, by its edit list, with its channels in order; damaged files are refused', async ({
  page,
}) => {
  await page.goto('/');
  const unpack = async (name: string, bytes: Uint8Array) => {
    const text = await page.evaluate(
      async ({ name, base64 }) => {
        const file = new Blob([Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))]);
        const worker = new Worker('/audio/worker.js', { type: 'module' });
        worker.postMessage({ kernels: await WebAssembly.compileStreaming(fetch('/audio/kernels.wasm')) });
        try {
          const { file: wav } = await new Promise<{ file: Blob }>((resolve, reject) => {
            worker.onmessage = ({ data }) => {
              if (data.kind === 'result') resolve(data.result);
              if (data.kind === 'error') reject(new Error(`${data.code}: ${data.message}`));
            };
            worker.postMessage({ id: 1, task: { kind: 'unpack', file, name } });
          });
          const reader = new FileReader();
          await new Promise((resolve) => {
            reader.onload = resolve;
            reader.readAsDataURL(wav);
          });
          return String(reader.result).split(',')[1]!;
        } finally {
          worker.terminate();
        }
      },
      { name, base64: Buffer.from(bytes).toString('base64') },
    );
    return readWav(new Uint8Array(Buffer.from(text, 'base64')), name);
  };
  const bytesOf = (name: string) => new Uint8Array(readFileSync(`test/fixtures/sounds/${name}`));
  const two = encodedSource(LONG_FRAMES).channels;
  const mp4 = await unpack('mp4.m4a', bytesOf('mp4.m4a'));
  expect(mp4.channels.map((channel, n) => [channel.length, lag(channel, two[n]!)])).toEqual([
    [LONG_FRAMES, 0],
    [LONG_FRAMES, 0],
  ]);
  // ADTS tells no delay: that of the encoder stays.
  const adts = await unpack('adts.aac', bytesOf('adts.aac'));
  expect(adts.channels.map((channel, n) => lag(channel, two[n]!))).toEqual([1024, 1024]);
  const six = await unpack('six.m4a', bytesOf('six.m4a'));
  const source = encodedSource(LONG_FRAMES, 6).channels;
  for (const n of [0, 1, 2, 4, 5]) expect([n, lag(six.channels[n]!, source[n]!)]).toEqual([n, 0]);

  await expect(unpack('torn.m4a', bytesOf('mp4.m4a').subarray(0, 3000))).rejects.toThrow(/file\.(broken|empty)/);
  const scattered = bytesOf('mp4.m4a').map((byte, n) => (n > 100 && n % 50 === 0 ? byte ^ 255 : byte));
  const outcome = await unpack('scattered.m4a', scattered).catch((error: Error) => error.message);
  if (typeof outcome === 'string') expect(outcome).toMatch(/file\.(broken|empty|unsupported)/);
});

test('AAC comes in as a clip and is there after a reload', async ({ page }) => {
  await newSession(page, 'Packed');
  await page.getByLabel('Sound files').setInputFiles('test/fixtures/sounds/mp4.m4a');
  await expect(page.getByRole('button', { name: /^Clip mp4, .* 0\.50 seconds/ })).toBeVisible({ timeout: 30000 });
  await saved(page);
  await page.reload();
  await loaded(page);
  const [left] = await bounce(page);
  expect(Math.max(...left!.map(Math.abs))).toBeGreaterThan(0.1);
});

test('long sounds are read by pages: heard from any place at once, never fetched whole, and bounced to the bit', async ({
  page,
}) => {
  test.setTimeout(180000);
  await newSession(page, 'Long');
  const tone = (seconds: number, rate: number, level: number) =>
    Float32Array.from({ length: seconds * rate }, (_, n) => level * Math.sin((2 * Math.PI * 220 * n) / rate));
  const wav = writeWav({ sampleRateHz: 44100, channels: [tone(62, 44100, 0.3)] }, '24');
  const sides = [tone(61, RATE, 0.2), tone(61, RATE, 0.1)];
  const flac = await writeFlac({ sampleRateHz: RATE, channels: sides }, 16);
  const asked: string[] = [];
  page.on('request', (request) => {
    if (/\/api\/assets\/[0-9a-f]+$/.test(request.url())) asked.push(request.headers().range ?? 'whole');
  });
  const bring = async (name: string, bytes: Uint8Array) => {
    await page
      .getByLabel('Sound files')
      .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(bytes) });
    await expect(page.getByRole('button', { name: new RegExp(`^Clip ${name.replace(/\..*/, '')}`) })).toBeVisible({
      timeout: 60000,
    });
    await loaded(page);
  };
  await bring('estuary.wav', wav);
  await bring('harbour.flac', flac);
  await saved(page);
  await page.reload();
  asked.length = 0;
  await loaded(page);
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  const ruler = page.locator('.beat-ruler');
  const box = (await ruler.boundingBox())!;
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  for (const place of [0.1, 0.6]) {
    await page.mouse.click(box.x + place * box.width, box.y + box.height - 8);
    await playheadMoves(page);
    await expect.poll(() => meterWidth(page)).toBeGreaterThan(5);
  }
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  expect(asked.filter((range) => range === 'whole')).toEqual([]);
  const bytes = asked.map((range) => {
    const [from, to] = range.slice('bytes='.length).split('-').map(Number);
    return to! - from! + 1;
  });
  expect(bytes.length).toBeGreaterThan(10);
  // From three places of 10 s each, two of them beside each other, and what a block has more.
  expect(bytes.reduce((sum, one) => sum + one, 0)).toBeLessThan(0.9 * (wav.length + flac.length));

  const [left, right] = await bounce(page);
  const whole = await readSound(flac, 'harbour.flac');
  const resampled = resample((await readSound(wav, 'estuary.wav')).channels[0]!, 44100, RATE)!;
  for (let n = 0; n < 60 * RATE; n += 997) {
    expect(left![n]).toBeCloseTo(whole.channels[0]![n]! + resampled[n]!, 5);
    expect(right![n]).toBeCloseTo(whole.channels[1]![n]! + resampled[n]!, 5);
  }
});

test('a long MP3 is unrolled once, into a file of the browser’s own, and played and bounced from there', async ({
  page,
}) => {
  await newSession(page, 'Long MP3');
  const mp3 = longMp3();
  await page
    .getByLabel('Sound files')
    .setInputFiles({ name: 'tide.mp3', mimeType: 'audio/mpeg', buffer: Buffer.from(mp3) });
  await expect(page.getByRole('button', { name: /^Clip tide/ })).toBeVisible({ timeout: 60000 });
  await loaded(page);
  await saved(page);
  const asked: number[] = [];
  page.on('request', (request) => {
    if (!/\/api\/assets\/[0-9a-f]+$/.test(request.url())) return;
    const [from, to] = (request.headers().range ?? `bytes=0-${mp3.length}`)
      .slice('bytes='.length)
      .split('-')
      .map(Number);
    asked.push(to! - from! + 1);
  });
  const files = () =>
    page.evaluate(async () => {
      const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('sounds');
      const sizes: number[] = [];
      for await (const [name, handle] of folder.entries())
        if (!name.includes('.')) sizes.push((await (handle as FileSystemFileHandle).getFile()).size);
      return sizes;
    });
  await page.reload();
  await loaded(page);
  const whole = await readSound(mp3, 'tide.mp3');
  const [size, ...others] = await files();
  expect(others).toEqual([]);
  expect(size).toBeGreaterThan(whole.channels[0]!.length * 8);
  // Nothing but the head of the file is asked for after it has been unrolled.
  asked.length = 0;
  await page.reload();
  await loaded(page);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await playheadMoves(page);
  await expect.poll(() => meterWidth(page)).toBeGreaterThan(5);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  const [left, right] = await bounce(page);
  for (let n = 0; n < 60 * RATE; n += 997) {
    expect(left![n]).toBeCloseTo(whole.channels[0]![n]!, 5);
    expect(right![n]).toBeCloseTo(whole.channels[1]![n]!, 5);
  }
  expect(asked.reduce((sum, one) => sum + one, 0)).toBeLessThan(mp3.length);
});
