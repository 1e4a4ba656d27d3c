import { readFileSync } from 'node:fs';
import { resample } from '@/core/dsp/resampler';
import type { Samples } from '@/core/engine/plan';
import { readSound } from '@/core/formats/readSound';
import { stereoOf } from '@/core/formats/sound';
import { validateDocument } from '@/core/session/document';
import type { SessionDocument } from '@/core/session/records/document';

/** One of the sounds of the demo session, as its file has it. */
export const shippedSound = (name: string) => readSound(new Uint8Array(readFileSync(`demo/sounds/${name}`)), name);

export const shippedStereo = async (name: string): Promise<Samples> => stereoOf(await shippedSound(name));

/** The demo session with its sounds, by asset. */
export async function shippedSession(): Promise<{ document: SessionDocument; samples: Map<string, Samples> }> {
  const document = validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));
  const samples = new Map<string, Samples>();
  for (const { id, name } of Object.values(document.assets)) samples.set(id, await shippedStereo(name));
  return { document, samples };
}

/** One of the sounds of the demo session: its first channel, from where it begins to sound, as many seconds at most. */
export async function shipped(name: string, rate = 48000, seconds = Infinity): Promise<Float32Array> {
  const { channels, sampleRateHz } = await shippedSound(name);
  const whole = channels[0]!;
  const begin = Math.max(
    0,
    whole.findIndex((x) => Math.abs(x) > 0.01),
  );
  const piece = whole.subarray(begin, begin + Math.min(whole.length, Math.round(seconds * sampleRateHz)));
  return sampleRateHz === rate ? piece : resample(piece, sampleRateHz, rate)!;
}
