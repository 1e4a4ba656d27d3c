import { DEFAULT_MUSICAL_CONTEXT, type Kernel } from '@/core/effects/kernel';
import { KERNELS } from '@/core/effects/kernels.generated';
import { PREPARERS } from '@/core/effects/preparers.generated';
import type { Prepared } from '@/core/effects/prepare';
import { resourceFor } from '@/core/effects/resource';
import { meterSlots, meterSlotCount, type MeterKind } from '@/core/effects/meters';
import { effectById } from '@/core/effects/registry';
import { resolveSettings, resolveValue, resolveValues } from '@/core/effects/resolve';
import { Arena, type Floats } from '@/core/wasm/arena';
import { findParameter, type ParameterValue, type ParameterValues } from '@/core/effects/spec';

export const TIMING = { tempoBpm: 84, beatsPerBar: 3 };
export const RATES = [44100, 48000, 96000];

/** Memory of the kernels of the test that runs; those made outside of any keep theirs. */
let memory = new Arena();
beforeEach(() => {
  memory = new Arena();
});
afterEach(freeKernels);

/** Ends all kernels of this test, for tests that make very many. */
export function freeKernels(): void {
  memory.free();
}

export function kernelOf(effect: string, values: ParameterValues, sampleRate = 48000): Kernel {
  const spec = effectById(effect);
  const settings = resolveSettings(spec, values) ?? {};
  const resolved = resolveValues(spec, values, TIMING);
  const kernel = KERNELS[effect]!({ sampleRate, values: resolved, settings, music: DEFAULT_MUSICAL_CONTEXT, memory });
  // What it works with is there before it sounds, as in a print.
  if (spec.prepares) {
    const { key } = resourceFor(spec, sampleRate, resolved, settings)!;
    let known = prepared.get(key);
    if (!known)
      prepared.set(key, (known = PREPARERS[effect]!({ sampleRate, values: resolved, settings, sound: null })));
    kernel.setResource!(known);
  }
  return kernel;
}

/** What effects work with, by its key: it takes long to be made. */
const prepared = new Map<string, Prepared>();

export function setValue(kernel: Kernel, effect: string, id: string, value: ParameterValue): void {
  const spec = effectById(effect);
  kernel.setParameter(
    spec.parameters.findIndex((parameter) => parameter.id === id),
    resolveValue(findParameter(spec, id)!, value, TIMING),
  );
}

/** A reading that a kernel tells now. */
export function readMeter(kernel: Kernel, effect: string, kind: MeterKind): number[] {
  const spec = effectById(effect);
  const out = new Float64Array(meterSlotCount(spec));
  kernel.readMeters!(out);
  const { at, count } = meterSlots(spec, kind)!;
  return [...out.subarray(at, at + count)];
}

/** Runs a kernel over a stereo sound in blocks of the given sizes, in turn; `before` is called ahead of each block. */
export function run(
  kernel: Kernel,
  left: Float32Array,
  right: Float32Array = left.slice(),
  sizes: readonly number[] = [128],
  before?: (frame: number) => void,
): { left: Float32Array; right: Float32Array } {
  return inMemory({ left, right }, (out) => {
    for (let at = 0, turn = 0; at < left.length; turn++) {
      const frames = Math.min(sizes[turn % sizes.length]!, left.length - at);
      before?.(at);
      kernel.process(partOf(out.left, at, at + frames), partOf(out.right, at, at + frames), frames);
      at += frames;
    }
  });
}

export interface Sides<Block extends Float32Array = Float32Array> {
  left: Block;
  right: Block;
}

/** Works on a copy of a sound where kernels work; returns what it has become. */
export function inMemory({ left, right }: Sides, work: (sound: Sides<Floats>) => void): Sides {
  const memory = new Arena();
  const copy = (side: Float32Array) => {
    const block = memory.floats(side.length);
    block.set(side);
    return block;
  };
  const sound = { left: copy(left), right: copy(right) };
  work(sound);
  const out = { left: sound.left.slice(), right: sound.right.slice() };
  memory.free();
  return out;
}

/** A part of what lies in WebAssembly memory. */
export const partOf = (block: Floats, from: number, to: number): Floats => block.subarray(from, to) as Floats;

/** So many frames where kernels work, for as long as the test runs. */
export const floats = (frames: number): Floats => memory.floats(frames);

export function impulse(length: number): Float32Array {
  const sound = new Float32Array(length);
  sound[0] = 1;
  return sound;
}

export function sine(frequencyHz: number, sampleRate: number, length: number, amplitude = 1): Float32Array {
  return Float32Array.from({ length }, (_, n) => amplitude * Math.sin((2 * Math.PI * frequencyHz * n) / sampleRate));
}

export const db = (gain: number) => 20 * Math.log10(gain);

/** Amplitude of one frequency in a sound, with a Hann window. */
export function amplitudeAt(sound: ArrayLike<number>, frequencyHz: number, sampleRate: number): number {
  let re = 0;
  let im = 0;
  let weight = 0;
  for (let n = 0; n < sound.length; n++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / sound.length);
    re += w * sound[n]! * Math.cos((2 * Math.PI * frequencyHz * n) / sampleRate);
    im += w * sound[n]! * Math.sin((2 * Math.PI * frequencyHz * n) / sampleRate);
    weight += w;
  }
  return (2 * Math.hypot(re, im)) / weight;
}

export function largest(sound: ArrayLike<number>): number {
  let most = 0;
  for (let n = 0; n < sound.length; n++) most = Math.max(most, Math.abs(sound[n]!));
  return most;
}

/** Largest change of a slope: a measure of clicks in a smooth sound. */
export function largestBend(sound: ArrayLike<number>, from = 2): number {
  let most = 0;
  for (let n = from; n < sound.length; n++)
    most = Math.max(most, Math.abs(sound[n]! - 2 * sound[n - 1]! + sound[n - 2]!));
  return most;
}

/** Where two sounds first differ, in frames; -1 when they are the same, samples and length. */
export function firstDifference(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const length = Math.min(a.length, b.length);
  for (let n = 0; n < length; n++) if (a[n] !== b[n]) return n;
  return a.length === b.length ? -1 : length;
}
