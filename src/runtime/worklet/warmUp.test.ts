import { planClip, planStrip } from '@/core/engine/plans';
import type { Plan } from '@/core/engine/plan';
import { prepareReads } from '@/core/dsp/ring';
import { heapOfThread } from '@/core/wasm/arena';
import { TIMING } from '../../../test/support/render';
import { resolveValues } from '@/core/effects/resolve';
import { effectById } from '@/core/effects/registry';
import { WarmUp } from './warmUp';

const values = resolveValues(effectById('delay'), {}, TIMING);
const plan: Plan = {
  sampleRate: 48000,
  framesPerBeat: 24000,
  endFrame: 48000,
  loop: null,
  strips: [
    planStrip('main', {
      clips: [planClip('clip', 4800, { assetId: 'sound' })],
      inserts: [{ id: 'd', effect: 'delay', values, bypass: false }],
    }),
  ],
  edges: [],
};
const sound = new Float32Array(4800).fill(0.5);
const samples = new Map([['sound', { left: sound, right: sound }]]);

describe('warming up', () => {
  // Tables that all effects share are made once and stay.
  beforeAll(prepareReads);

  it('comes to an end and gives back what it held', () => {
    const before = heapOfThread().freeBytes;
    const warmUp = new WarmUp();
    let steps = 1;
    while (warmUp.step(plan, samples)) steps++;
    expect(steps).toBe(50);
    expect(heapOfThread().freeBytes).toBe(before);
    expect(warmUp.step(plan, samples)).toBe(false);
  });

  it('can be broken off, and stays so', () => {
    const before = heapOfThread().freeBytes;
    const warmUp = new WarmUp();
    expect(warmUp.step(plan, samples)).toBe(true);
    expect(heapOfThread().freeBytes).toBeLessThan(before);
    warmUp.end();
    expect(heapOfThread().freeBytes).toBe(before);
    expect(warmUp.step(plan, samples)).toBe(false);
  });
});
