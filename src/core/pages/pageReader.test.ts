import '../wasm/embedded';
import { bytesOf } from '../formats/fileBytes';
import { writeFlac } from '../formats/flac';
import { openSeekable } from '../formats/seekable/seekable';
import { writeWav } from '../formats/wav';
import { runJob } from '../jobs/jobs';
import { sumOf } from '../../../test/support/bytes';
import { noise } from '../../../test/support/noise';
import { PAGE_FRAMES, pageCount } from './pagedSamples';
import { PageReader } from './pageReader';

it.each<[string, number, number, number, string | undefined]>([
  ['FLAC at its own rate', 48000, 48000, 2, undefined],
  ['mono', 48000, 48000, 1, undefined],
  ['44.1 kHz at 48', 44100, 48000, 2, undefined],
  ['48 kHz at 44.1', 48000, 44100, 1, undefined],
  ['96 kHz at 48', 96000, 48000, 2, undefined],
  ['a rate without a simple ratio', 47999, 48000, 1, undefined],
  ['quad, folded', 44100, 48000, 4, 'fold-51'],
  ['the third of four', 48000, 48000, 4, 'take-3'],
])('pages are the very bits of the whole sound: %s', async (name, fileHz, rateHz, channels, heard) => {
  const sound = { sampleRateHz: fileHz, channels: noise(2.3 * PAGE_FRAMES, channels) };
  const bytes = fileHz === 47999 ? writeWav(sound, '24') : await writeFlac(sound, 24);
  const whole = await runJob({ kind: 'decode', bytes: bytes.slice().buffer, name, sampleRateHz: rateHz, heard });
  const reader = new PageReader((await openSeekable(bytesOf(bytes), name))!, heard, rateHz);
  expect([reader.frames, reader.sides]).toEqual([whole.left.length, whole.left === whole.right ? 1 : 2]);
  const pages = pageCount(reader.frames);
  // Backwards, so that nothing rests on what was read before.
  for (let page = pages - 1; page >= 0; page--) {
    const [left, right] = await reader.page(page);
    const cut = (side: Float32Array) => sumOf(side.slice(page * PAGE_FRAMES, (page + 1) * PAGE_FRAMES));
    expect([page, sumOf(left!)]).toEqual([page, cut(whole.left)]);
    if (right) expect(sumOf(right)).toBe(cut(whole.right));
  }
  reader.free();
});
