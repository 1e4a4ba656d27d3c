import { MAXIMUM_BLOCK, type Kernel } from '@/core/effects/kernel';
import { NOTE_VALUES } from '@/core/effects/noteValues';
import { effectById } from '@/core/effects/registry';
import { resolveValue } from '@/core/effects/resolve';
import { valueAt } from '@/core/effects/scale';
import type { Parameter, ParameterValue } from '@/core/effects/spec';
import type { SeededRandom } from '@/core/math/random';
import { Arena, type Floats } from '@/core/wasm/arena';
import { inMemory, partOf, TIMING, type Sides } from './render';

/** Any value a parameter takes: its ends now and then, and note values where it takes them. */
export function randomValue(one: Parameter, random: SeededRandom): ParameterValue {
  if (one.kind === 'toggle') return random.uniform() < 0.5;
  if (one.kind === 'choice') return one.choices[Math.floor(random.uniform() * one.choices.length)]!.id;
  const at = random.uniform();
  if (at < 0.05) return one.min;
  if (at > 0.95) return one.max;
  if (one.sync === 'time' && at > 0.9) return NOTE_VALUES[Math.floor(random.uniform() * 8)]!;
  return valueAt(one, random.uniform());
}

/** Values for a random third to all of an effect's parameters. */
export function randomValues(effect: string, random: SeededRandom): Record<string, ParameterValue> {
  const share = 0.33 + 0.67 * random.uniform();
  return Object.fromEntries(
    effectById(effect)
      .parameters.filter(() => random.uniform() < share)
      .map((one) => [one.id, randomValue(one, random)]),
  );
}

/** A parameter that is sent somewhere at a frame: by hand, or by automation to arrive after `ramp` frames. */
export interface ParameterEvent {
  readonly at: number;
  readonly index: number;
  readonly value: number;
  readonly ramp: number | undefined;
}

/** Moves by hand and ramps of automation, told every 32nd frame as the engine does, in the order of their frames. */
export function randomEvents(effect: string, random: SeededRandom, frames: number, moves: number): ParameterEvent[] {
  const { parameters } = effectById(effect);
  const events: ParameterEvent[] = [];
  for (let move = 0; move < moves; move++) {
    const index = Math.floor(random.uniform() * parameters.length);
    const one = parameters[index]!;
    const at = Math.floor(random.uniform() * frames);
    const to = () => resolveValue(one, randomValue(one, random), TIMING);
    if (one.kind !== 'number' || random.uniform() < 0.5) {
      events.push({ at, index, value: to(), ramp: undefined });
      continue;
    }
    const from = to();
    const until = to();
    const pieces = 1 + Math.floor(random.uniform() * 40);
    for (let piece = 1; piece <= pieces; piece++) {
      events.push({ at: at + 32 * (piece - 1), index, value: from + ((until - from) * piece) / pieces, ramp: 32 });
    }
  }
  return events.filter((event) => event.at < frames).sort((a, b) => a.at - b.at);
}

/** Runs a kernel over a stereo sound, cut into blocks of the given sizes in turn and at every event. */
export function runWithEvents(
  kernel: Kernel,
  effect: string,
  sound: Sides,
  events: readonly ParameterEvent[],
  sizes: readonly number[],
): Sides {
  const memory = new Arena();
  const key = { left: memory.floats(MAXIMUM_BLOCK), right: memory.floats(MAXIMUM_BLOCK) };
  const out = inMemory(sound, (there) => playEvents(kernel, effect, there, key, events, sizes));
  memory.free();
  return out;
}

/** The same where the sound lies. @param key room for a block of what the effect listens to: the sound before it, sides exchanged */
export function playEvents(
  kernel: Kernel,
  effect: string,
  { left, right }: Sides<Floats>,
  key: Sides<Floats>,
  events: readonly ParameterEvent[],
  sizes: readonly number[],
): void {
  const inputs = effectById(effect).inputs ? [key] : [];
  let next = 0;
  for (let at = 0, turn = 0; at < left.length; turn++) {
    for (; next < events.length && events[next]!.at <= at; next++) {
      const { index, value, ramp } = events[next]!;
      kernel.setParameter(index, value, ramp);
    }
    const end = Math.min(left.length, events[next]?.at ?? left.length);
    const count = Math.min(sizes[turn % sizes.length]!, end - at);
    const [partLeft, partRight] = [partOf(left, at, at + count), partOf(right, at, at + count)];
    key.left.set(partRight);
    key.right.set(partLeft);
    kernel.process(partLeft, partRight, count, inputs);
    at += count;
  }
}
