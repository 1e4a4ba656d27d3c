import { drawn } from '../../../test/support/sweep';
import { kernelOf, largest, run } from '../../../test/support/render';
import { integratedLoudness } from '../analysis/loudness';
import { Noise } from '../dsp/noise';
import { EFFECTS, effectById } from './registry';

describe('every effect', () => {
  it.each(EFFECTS.map((spec) => [spec.id] as const))(
    '%s: presets sound, do not clip, and stay near the dry loudness',
    (id) => {
      const noise = new Noise(2);
      const dry = Float32Array.from(
        { length: 48000 * 4 },
        (_, n) => (Math.floor(n / 9000) % 3 === 0 ? 0.35 : 0.02) * noise.pink(),
      );
      const before = integratedLoudness([dry, dry], 48000);
      for (const preset of drawn(`presets of ${id}`, effectById(id).presets)) {
        const out = run(kernelOf(id, preset.values), dry);
        expect(largest(out.left)).toBeLessThan(1);
        const change = integratedLoudness([out.left, out.right], 48000) - before;
        const asked = typeof preset.values.gain === 'number' ? preset.values.gain : 0;
        // One listens to another sound; a check takes away what it is about.
        if (preset.purpose.includes('with a key') || preset.purpose === 'Checks') continue;
        const allowed = ['delay', 'chorus', 'flanger', 'phaser'].includes(id) ? 3 : 12;
        expect([preset.id, Math.abs(change - asked) < allowed]).toEqual([preset.id, true]);
      }
    },
  );
});
