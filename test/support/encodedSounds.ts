import { readFileSync } from 'node:fs';
import { SeededRandom } from '@/core/math/random';
import type { Sound } from '@/core/formats/sound';

/** Frames of the files in test/fixtures/sounds: uncompressed and lossless ones, and those that are kept with loss. */
export const SHORT_FRAMES = 2400;
export const LONG_FRAMES = 24000;

/** The sound in those files: noise of less than 12 kHz under a slow swell, other noise in each channel, in 16-bit steps. */
export function encodedSource(frames: number, channels = 2, sampleRateHz = 48000): Sound {
  return {
    sampleRateHz,
    channels: Array.from({ length: channels }, (_, channel) => {
      const random = new SeededRandom(channel + 1);
      let last = 0;
      return Float32Array.from({ length: frames }, (_, n) => {
        const next = random.uniform() - 0.5;
        const smooth = (last + next) / 2;
        last = next;
        // No negative zero, which files do not keep.
        return (Math.round(32768 * smooth * Math.sin((Math.PI * n) / frames) * 0.9 ** channel) || 0) / 32768;
      });
    }),
  };
}

/** Samples by which a sound of LONG_FRAMES comes later than another, at most 3000. */
export function lag(of: Float32Array, source: Float32Array): number {
  let best = -Infinity;
  let at = NaN;
  for (let by = -3000; by <= 3000; by++) {
    let sum = 0;
    for (let n = 8000; n < 16000; n++) sum += source[n]! * (of[n + by] ?? 0);
    if (sum > best) [best, at] = [sum, by];
  }
  return at;
}

/** MP3 of more than a minute: the frames of a short file, over and over. */
export function longMp3(): Uint8Array<ArrayBuffer> {
  const short = readFileSync('test/fixtures/sounds/untagged.mp3');
  return new Uint8Array(Buffer.concat(Array.from({ length: 120 }, () => short)));
}
