import type { Kernel } from '@/core/effects/kernel';
import { KERNELS } from '@/core/effects/kernels.generated';
import type { Preparer, Prepared } from '@/core/effects/prepare';
import { PREPARERS } from '@/core/effects/preparers.generated';
import { EFFECTS } from '@/core/effects/registry';
import { defineEffect, number, type EffectSpec } from '@/core/effects/spec';

/** Puts out one steady value: the first of what has been prepared. */
export class Steady implements Kernel {
  static taken = 0;
  readonly latencyFrames = 0;
  private value = NaN;
  tailSeconds = () => 0;
  setParameter(): void {}
  locate(): void {}
  reset(): void {}
  setResource([first]: Prepared): void {
    Steady.taken++;
    this.value = first![0]!;
  }
  process(left: Float32Array, right: Float32Array, frames: number): void {
    left.fill(this.value, 0, frames);
    right.fill(this.value, 0, frames);
  }
}

/** An effect of tests alone, which works with a sound. */
export const steadySpec = defineEffect({
  id: 'steady',
  name: 'Steady',
  family: 'tools',
  purpose: 'Puts out the first of its sound, times a factor.',
  picture: 'response',
  main: ['factor'],
  presets: [],
  parameters: [
    number({ id: 'factor', name: 'Factor', unit: '', min: 0, max: 9, default: 1, scale: 'linear', help: 'Times.' }),
    number({ id: 'other', name: 'Other', unit: '', min: 0, max: 9, default: 1, scale: 'linear', help: 'Not.' }),
  ],
  settings: [
    {
      kind: 'sound',
      id: 'sound',
      name: 'Sound',
      help: 'What is put out.',
      group: 'Sound',
      default: 'one',
      shipped: [
        { id: 'one', name: 'One' },
        { id: 'broken', name: 'Broken' },
      ],
      longestSeconds: 2,
    },
  ],
  prepares: { from: ['factor'] },
});

const prepareSteady: Preparer = ({ sound, values, settings }) => {
  const chosen = settings.sound!;
  if (chosen.kind === 'sound' && chosen.id === 'broken') throw new Error('a broken sound');
  return [Float32Array.of((sound ? sound.left[0]! : 0.5) * values[0]!)];
};

/** Lets the tests of a file know it. */
export function withSteady(): void {
  beforeAll(() => {
    (EFFECTS as EffectSpec[]).push(steadySpec);
    (KERNELS as Record<string, unknown>).steady = () => new Steady();
    (PREPARERS as Record<string, unknown>).steady = prepareSteady;
  });
  afterAll(() => {
    (EFFECTS as EffectSpec[]).pop();
    delete (KERNELS as Record<string, unknown>).steady;
    delete (PREPARERS as Record<string, unknown>).steady;
  });
}
