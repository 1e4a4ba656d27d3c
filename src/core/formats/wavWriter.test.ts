import { SeededRandom } from '../math/random';
import { readSound } from './readSound';
import { wavLayout, WavWriter, writeWav } from './wav';

const noise = (channels: number, frames: number) => {
  const random = new SeededRandom(5);
  return Array.from({ length: channels }, () => Float32Array.from({ length: frames }, () => random.uniform() - 0.5));
};

describe('WAV written part by part', () => {
  it.each([
    ['16', 1, 999],
    ['24', 3, 1001],
    ['32f', 2, 1000],
  ] as const)('of %s, %d channels, is the same as at once, whatever the parts', (format, count, frames) => {
    const channels = noise(count, frames);
    const writer = new WavWriter(48000, count, format);
    const parts = [0, 1, 2, 500, frames].map((to, n, ends) =>
      writer.body(channels.map((one) => one.subarray(ends[n - 1] ?? 0, to))),
    );
    const whole = Buffer.concat([writer.head(frames), ...parts, writer.end(frames)]);
    expect(new Uint8Array(whole)).toEqual(writeWav({ sampleRateHz: 48000, channels }, format));
  });

  it('over 4 GiB is RF64, and RIFF up to there', async () => {
    const headOf = (frames: number) => new WavWriter(48000, 2, '32f').head(frames);
    const most = Math.floor((2 ** 32 - 80) / 8);
    expect(Buffer.from(headOf(most).subarray(0, 4)).toString()).toBe('RIFF');
    const large = headOf(most + 10);
    expect(Buffer.from(large.subarray(0, 4)).toString()).toBe('RF64');
    expect(wavLayout(large, 'large.wav')).toMatchObject({
      start: large.length,
      size: (most + 10) * 8,
      channels: 2,
      sampleRateHz: 48000,
    });
    await expect(readSound(large, 'large.wav')).rejects.toThrow(
      `it says ${(most + 10) * 8} bytes of sound and holds 0`,
    );
  });
});
