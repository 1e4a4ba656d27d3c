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
  const states = sections.map(() => [0, 0]);
  return Float64Array.from(sound, (sample) => {
    let x = sample;
    sections.forEach(({ a1, a2 }, n) => {
      const state = states[n]!;
      const y = x + state[0]!;
      state[0] = state[1]! - a1 * y;
      state[1] = -x - a2 * y;
      x = y;
    });
    return gain * x;
  });
}
