/** Files of other encoders, made by script/encodedSounds.ts. */
import { readFileSync } from 'node:fs';
import { damaged } from '../../../test/support/damaged';
import { encodedSource, lag, LONG_FRAMES, SHORT_FRAMES } from '../../../test/support/encodedSounds';
import { drawn } from '../../../test/support/sweep';
import { KinetikonError } from '../errors';
import { readSound, salvageSound } from './readSound';
import { containerOf, type ContainerId } from './soundFormats';
import { SoundScanner } from './soundScanner';
import { writeWav } from './wav';

const bytesOf = (name: string) => new Uint8Array(readFileSync(`test/fixtures/sounds/${name}`));
const read = (name: string) => readSound(bytesOf(name), name);

const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);

/** Energy of what differs, in dB under the sound itself. */
const errorDb = (of: Float32Array, source: Float32Array) =>
  10 * Math.log10(power(source.map((x, n) => x - of[n]!)) / power(source));

describe('uncompressed and lossless files of other encoders', () => {
  it.each([
    ['16.wav', 'wav'],
    ['32.wav', 'wav'],
    ['64f.wav', 'wav'],
    ['extensible.wav', 'wav'],
    ['rf64.wav', 'wav'],
    ['24.aiff', 'aiff'],
    ['16-little.aifc', 'aiff'],
    ['32f.aifc', 'aiff'],
    ['24.flac', 'flac'],
  ])('%s is read to the bit', async (name, format) => {
    expect(containerOf(bytesOf(name))).toBe(format);
    const sound = await read(name);
    const source = encodedSource(SHORT_FRAMES);
    expect([sound.sampleRateHz, sound.channels.map(({ length }) => length)]).toEqual([
      48000,
      [SHORT_FRAMES, SHORT_FRAMES],
    ]);
    sound.channels.forEach((samples, n) => expect(samples).toEqual(source.channels[n]));
  });

  it.each(['8.wav', '8.aiff'])('%s is read within its steps, around zero', async (name) => {
    const { channels } = await read(name);
    const source = encodedSource(SHORT_FRAMES).channels[1]!;
    const errors = channels[1]!.map((x, n) => (x - source[n]!) * 128);
    expect(Math.max(...errors.map(Math.abs))).toBeLessThanOrEqual(1);
    expect(Math.abs(errors.reduce((sum, x) => sum + x, 0) / errors.length)).toBeLessThan(0.6);
  });

  it('BW64 states its size where RF64 does, also over 4 GiB', async () => {
    const plain = writeWav(encodedSource(SHORT_FRAMES), '24');
    const large = (size: bigint) => {
      const bytes = new Uint8Array(plain.length + 36);
      bytes.set(plain.subarray(0, 12));
      bytes.set(plain.subarray(12), 48);
      const view = new DataView(bytes.buffer);
      bytes.set([...'BW64'].map((one) => one.charCodeAt(0)));
      bytes.set(
        [...'ds64'].map((one) => one.charCodeAt(0)),
        12,
      );
      view.setUint32(4, 0xffffffff, true);
      view.setUint32(16, 28, true);
      view.setBigUint64(28, size, true);
      view.setUint32(48 + 28, 0xffffffff, true);
      return bytes;
    };
    expect((await readSound(large(BigInt(SHORT_FRAMES * 6)), 'a')).channels).toEqual(
      encodedSource(SHORT_FRAMES).channels,
    );
    await expect(readSound(large(6_000_000_000n), 'a')).rejects.toThrow(/6000000000 bytes .* cut short/);
  });
});

describe('files that are kept with loss', () => {
  it.each([
    ['constant.mp3', 'mp3'],
    ['variable.mp3', 'mp3'],
    ['other.mp3', 'mp3'],
    ['stereo.ogg', 'vorbis'],
    ['stereo.opus', 'opus'],
    ['other.opus', 'opus'],
  ])('%s is in its place and as long as what it was made from', async (name, format) => {
    expect(containerOf(bytesOf(name))).toBe(format);
    const { channels } = await read(name);
    const source = encodedSource(LONG_FRAMES).channels;
    expect(channels.map(({ length }) => length)).toEqual([LONG_FRAMES, LONG_FRAMES]);
    channels.forEach((samples, n) => {
      expect(lag(samples, source[n]!)).toBe(0);
      // They leave out the highest of the noise.
      expect(errorDb(samples, source[n]!)).toBeLessThan(-6);
    });
  });

  it('an MP3 that tells no delay loses that of the decoder alone; one of one channel has one', async () => {
    const { channels } = await read('untagged.mp3');
    // 576 samples are the delay of its encoder.
    expect(lag(channels[0]!, encodedSource(LONG_FRAMES).channels[0]!)).toBe(576);
    const mono = await read('mono.mp3');
    expect(mono.channels.map(({ length }) => length)).toEqual([LONG_FRAMES]);
  });

  it.each(['six.ogg', 'six.opus'])('%s has its six channels in the order of WAV', async (name) => {
    const { channels } = await read(name);
    const source = encodedSource(LONG_FRAMES, 6).channels;
    // The encoders keep of the fourth, for low frequencies, next to nothing of this noise.
    for (const n of [0, 1, 2, 4, 5]) expect(errorDb(channels[n]!, source[n]!)).toBeLessThan(-4);
  });
});

describe('what is refused', () => {
  it.each([
    ['a-law.wav', /holds A-law\./],
    ['mu-law.wav', /holds mu-law\./],
    ['flac-in-ogg.ogg', /is FLAC in Ogg, which is not read\./],
    ['mp4.m4a', /is AAC or another sound in MP4, and AAC is read in a browser alone\./],
    ['adts.aac', /AAC is read in a browser alone\./],
  ])('%s is named', async (name, message) => {
    await expect(read(name)).rejects.toMatchObject({
      code: 'file.unsupported',
      message: expect.stringMatching(message),
    });
  });

  it.each(['16.wav', '24.aiff', '24.flac', 'constant.mp3', 'stereo.ogg', 'stereo.opus'])(
    '%s is refused when it is cut short, with the reason',
    async (name) => {
      const bytes = bytesOf(name);
      await expect(readSound(bytes.slice(0, Math.floor(0.7 * bytes.length)), name)).rejects.toMatchObject({
        code: 'file.broken',
        message: expect.stringMatching(/cut short|damaged/),
      });
    },
  );
});

describe('what is whole of a file that is cut short', () => {
  it.each(['16.wav', '24.aiff', 'constant.mp3', 'stereo.ogg'])(
    'of %s is as much as there is, to the bit',
    async (name) => {
      const bytes = bytesOf(name);
      const { channels } = await readSound(bytes, name);
      const found = await salvageSound(bytes.slice(0, Math.floor(0.7 * bytes.length)), name);
      const frames = found.channels[0]!.length;
      expect(frames / channels[0]!.length).toBeGreaterThan(0.25);
      expect(frames).toBeLessThan(channels[0]!.length);
      found.channels.forEach((samples, n) => expect(samples).toEqual(channels[n]!.slice(0, frames)));
    },
  );

  it('is refused where there is nothing', async () => {
    await expect(salvageSound(bytesOf('24.flac').slice(0, 3000), 'a')).rejects.toMatchObject({ code: 'file.broken' });
    // One page is all of its half second.
    await expect(salvageSound(bytesOf('stereo.opus').slice(0, 9000), 'a')).rejects.toMatchObject({
      code: 'file.broken',
    });
    await expect(salvageSound(bytesOf('16.wav').slice(0, 30), 'a')).rejects.toMatchObject({ code: 'file.broken' });
  });
});

describe('a file that comes in parts', () => {
  it.each(['24.aiff', 'constant.mp3', 'six.ogg', 'stereo.opus', '24.flac', 'rf64.wav'])(
    '%s is found to hold the same however it is cut',
    async (name) => {
      const bytes = bytesOf(name);
      const whole = await readSound(bytes, name);
      // The first bytes one by one, the others in lots of no round number.
      const cuts = [
        ...Array(80).keys(),
        ...Array.from({ length: Math.ceil(bytes.length / 1613) }, (_, n) => 80 + 1613 * n),
      ];
      const scanner = new SoundScanner(name);
      for (const [n, at] of cuts.entries()) await scanner.push(bytes.subarray(at, cuts[n + 1] ?? bytes.length));
      expect(await scanner.end()).toMatchObject({
        format: containerOf(bytes) as ContainerId,
        frames: whole.channels[0]!.length,
        channels: whole.channels.length,
        sampleRateHz: whole.sampleRateHz,
      });
    },
  );
});

describe('damaged files', () => {
  const names = ['24.aiff', 'rf64.wav', 'variable.mp3', 'stereo.ogg', 'stereo.opus', '24.flac'];
  it.each(names)('%s ends in a sound or in a reason, never in anything else', async (name) => {
    // The decoders tell of each flaw on the console too.
    jest.spyOn(console, 'error').mockImplementation(() => {});
    const bytes = bytesOf(name);
    for (const seed of drawn(
      name,
      Array.from({ length: 60 }, (_, n) => n),
    )) {
      const outcome = await readSound(damaged(bytes, seed), name).catch((error: unknown) => error);
      if (outcome instanceof Error) expect([seed, outcome]).toEqual([seed, expect.any(KinetikonError)]);
    }
  });
});
