import { readFileSync } from 'node:fs';
import { resample } from '@/core/dsp/resampler';
import { readSound } from '@/core/formats/readSound';

/** One of the sounds of the demo session: its first channel, from where it begins to sound, as many seconds at most. */
export async function shipped(name: string, rate = 48000, seconds = Infinity): Promise<Float32Array> {
  const { channels, sampleRateHz } = await readSound(new Uint8Array(readFileSync(`demo/sounds/${name}`)), name);
  const whole = channels[0]!;
  const begin = Math.max(
    0,
    whole.findIndex((x) => Math.abs(x) > 0.01),
  );
  const piece = whole.subarray(begin, begin + Math.min(whole.length, Math.round(seconds * sampleRateHz)));
  return sampleRateHz === rate ? piece : resample(piece, sampleRateHz, rate)!;
}
