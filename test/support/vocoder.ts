import type { BandPass } from '@/core/dsp/bandPass';
import type { Kernel } from '@/core/effects/kernel';
import { floats, inMemory, partOf } from './render';

/** Runs a voice, and a carrier where one is given, through a kernel. */
export function speak(kernel: Kernel, voice: Float32Array, carrier?: Float32Array) {
  const key = carrier && { left: floats(128), right: floats(128) };
  return inMemory({ left: voice, right: voice }, ({ left, right }) => {
    for (let at = 0; at < voice.length; at += 128) {
      const end = Math.min(voice.length, at + 128);
      for (const side of key ? [key.left, key.right] : []) side.set(carrier!.subarray(at, end));
      kernel.process(partOf(left, at, end), partOf(right, at, end), end - at, [key ?? null]);
    }
  });
}

/** A sound through a band-pass, section by section. */
export function throughBand({ sections, gain }: BandPass, sound: Float32Array): Float64Array {
  const out = Float64Array.from(sound);
  for (const { a1, a2 } of sections) {
    let [z1, z2] = [0, 0];
    for (let n = 0; n < out.length; n++) {
      const x = out[n]!;
      const y = x + z1;
      z1 = z2 - a1 * y;
      z2 = -x - a2 * y;
      out[n] = y;
    }
  }
  for (let n = 0; n < out.length; n++) out[n] = gain * out[n]!;
  return out;
}
