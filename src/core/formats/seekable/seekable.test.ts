import { readFileSync } from 'node:fs';
import { damaged } from '../../../../test/support/damaged';
import { thinned } from '../../../../test/support/sweep';
import { KinetikonError } from '../../errors';
import { sumOf } from '../../../../test/support/bytes';
import { SeededRandom } from '../../math/random';
import { bytesOf, type FileBytes } from '../fileBytes';
import { writeFlac } from '../flac';
import { readSound } from '../readSound';
import { writeWav } from '../wav';
import { openSeekable } from './seekable';

const fixture = (name: string) => new Uint8Array(readFileSync(`test/fixtures/sounds/${name}`));

/** Loud and quiet stretches, so that frames differ in length. */
function music(frames: number, channels: number, seed: number): Float32Array[] {
  const random = new SeededRandom(seed);
  return Array.from({ length: channels }, (_, channel) => {
    let level = 0.5;
    return Float32Array.from({ length: frames }, (_, n) => {
      if (n % 20000 === 0) level = random.uniform() ** 4;
      return level * (0.5 * Math.sin(n * 0.01 * (channel + 1)) + 0.3 * (random.uniform() - 0.5));
    });
  });
}

/** Counts what is read of a file. */
function counted(bytes: Uint8Array): FileBytes & { reads: number; bytes: number } {
  const file = {
    size: bytes.length,
    reads: 0,
    bytes: 0,
    read: async (from: number, to: number) => {
      const part = bytes.subarray(from, to);
      file.reads++;
      file.bytes += part.length;
      return part;
    },
  };
  return file;
}

const RATE = 48000;
const long = { sampleRateHz: RATE, channels: music(40 * RATE + 123, 2, 1) };

describe('a sound in any place', () => {
  it.each<[string, () => Promise<Uint8Array>]>([
    ['16.wav', async () => fixture('16.wav')],
    ['rf64.wav', async () => fixture('rf64.wav')],
    ['16-little.aifc', async () => fixture('16-little.aifc')],
    ['24.flac', async () => fixture('24.flac')],
    ['six.flac', async () => fixture('six.flac')],
    ['told.flac, with comments', async () => fixture('told.flac')],
    ['FLAC of 40 s', () => writeFlac(long, 24)],
    ['WAV of 40 s', async () => writeWav(long, '32f')],
    ['a demo sound', async () => new Uint8Array(readFileSync('demo/sounds/reed-organ.flac'))],
  ])('is that of the whole: %s', async (name, make) => {
    const bytes = await make();
    const whole = await readSound(bytes, name);
    const sound = (await openSeekable(bytesOf(bytes), name))!;
    const frames = whole.channels[0]!.length;
    expect([sound.frames, sound.channels, sound.sampleRateHz]).toEqual([
      frames,
      whole.channels.length,
      whole.sampleRateHz,
    ]);
    const random = new SeededRandom(7);
    const below = (end: number) => Math.floor(random.uniform() * end);
    const stretches = Array.from({ length: thinned(60) }, () => {
      const from = below(frames);
      return [from, from + 1 + below(Math.min(100000, frames - from))] as const;
    });
    for (const [from, to] of [[0, 1], [frames - 1, frames], [0, Math.min(frames, 70000)], ...stretches] as const) {
      const read = await sound.read(from, to);
      read.forEach((channel, n) => expect(sumOf(channel)).toBe(sumOf(whole.channels[n]!.subarray(from, to))));
    }
    sound.free();
  });

  it('of FLAC is found in a few looks, and the next page without any', async () => {
    const file = counted(await writeFlac(long, 24));
    const sound = (await openSeekable(file, 'long.flac'))!;
    let most = 0;
    for (const place of [0.9, 0.1, 0.5, 0.77, 0.31]) {
      const before = file.reads;
      const from = Math.floor(place * (long.channels[0]!.length - 140000));
      await sound.read(from, from + 65536);
      most = Math.max(most, file.reads - before);
    }
    expect(most).toBeLessThanOrEqual(10);
    const [reads, bytes] = [file.reads, file.bytes];
    const from = Math.floor(0.31 * (long.channels[0]!.length - 140000)) + 65536;
    await sound.read(from, from + 65536);
    expect(file.reads - reads).toBeLessThanOrEqual(5);
    expect(file.bytes - bytes).toBeLessThan(800000);
    sound.free();
  });

  it('is not to be had of formats that must be decoded from the beginning, nor of what is no sound', async () => {
    for (const name of ['constant.mp3', 'stereo.ogg', 'stereo.opus']) {
      expect(await openSeekable(bytesOf(fixture(name)), name)).toBeNull();
    }
    expect(await openSeekable(bytesOf(new Uint8Array(100)), 'zeros')).toBeNull();
  });

  it.each(['24.flac', '16.wav', '24.aiff', 'six.flac'])(
    'of a damaged file is refused or as long as asked for: %s',
    async (name) => {
      // The decoder writes to the console what it also throws.
      const quiet = jest.spyOn(console, 'error').mockImplementation(() => {});
      for (let seed = 0; seed < thinned(300); seed++) {
        try {
          const sound = await openSeekable(bytesOf(damaged(fixture(name), seed)), name);
          if (!sound) continue;
          const from = Math.floor(sound.frames / 2);
          const to = Math.min(sound.frames, from + 1000);
          for (const channel of await sound.read(from, to)) expect(channel.length).toBe(to - from);
          sound.free();
        } catch (error) {
          expect(error).toBeInstanceOf(KinetikonError);
        }
      }
      quiet.mockRestore();
    },
  );
});
