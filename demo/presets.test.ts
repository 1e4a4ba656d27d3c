import { drawn } from '../test/support/sweep';
import { shippedStereo } from '../test/support/shipped';
import { largest } from '../test/support/render';
import { integratedLoudness } from '@/core/analysis/loudness';
import { effectById } from '@/core/effects/registry';
import { resolveValues } from '@/core/effects/resolve';
import { chainPlan } from '@/core/engine/plans';
import type { Samples } from '@/core/engine/plan';
import { renderPlan } from '@/core/engine/render';

const SECONDS = 10;
const RATE = 48000;
/** A sound of the demo for each purpose a preset is offered under. */
const SOUNDS: readonly (readonly [RegExp, string])[] = [
  [/percussion|Bar-aligned/i, 'tin'],
  [/plucked|Bouncing|Dotted|Widening/i, 'harp'],
  [/pad|Special/i, 'reed-organ'],
  [/./, 'lamp-keeper'],
];

const sounds = new Map<string, Samples>();

/** The loudest stretch of a sound of the demo. */
async function soundFor(purpose: string): Promise<Samples> {
  const name = SOUNDS.find(([words]) => words.test(purpose))![1];
  const known = sounds.get(name);
  if (known) return known;
  const { left } = await shippedStereo(`${name}.flac`);
  const power = (from: number) => {
    let sum = 0;
    for (let n = from; n < Math.min(left.length, from + RATE * SECONDS); n += 16) sum += left[n]! ** 2;
    return sum;
  };
  let best = 0;
  for (let from = 0; from + RATE * SECONDS < left.length; from += RATE) if (power(from) > power(best)) best = from;
  const part = left.slice(best, best + RATE * SECONDS);
  const sound = { left: part, right: part };
  sounds.set(name, sound);
  return sound;
}

describe.each(['delay', 'chorus', 'flanger', 'phaser'])('presets of %s on the sounds of the demo', (id) => {
  const spec = effectById(id);
  it('are many enough and told apart by purpose', () => {
    expect(spec.presets.length).toBeGreaterThanOrEqual(id === 'delay' ? 12 : 8);
    expect(new Set(spec.presets.map(({ purpose }) => purpose)).size).toBeGreaterThanOrEqual(id === 'delay' ? 8 : 4);
  });

  it.each(drawn(id, spec.presets).map((preset) => [preset.id, preset] as const))(
    '%s does not clip, is not silent, and is as loud as the dry sound within 3 dB',
    async (_, preset) => {
      const dry = await soundFor(preset.purpose);
      const insert = {
        id: 'one',
        effect: id,
        bypass: false,
        values: resolveValues(spec, preset.values, { tempoBpm: 84, beatsPerBar: 3 }),
      };
      const { plan, samples } = chainPlan([insert], RATE, dry);
      const wet = renderPlan(plan, samples, { fromFrame: 0, toFrame: dry.left.length, tailSeconds: 0 })!;
      expect(largest(wet.left)).toBeLessThan(1);
      expect(largest(wet.right)).toBeLessThan(1);
      const change = integratedLoudness([wet.left, wet.right], RATE) - integratedLoudness([dry.left, dry.right], RATE);
      expect(Math.abs(change)).toBeLessThan(3);
    },
  );
});
