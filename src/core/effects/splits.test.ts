import { drawn } from '../../../test/support/sweep';
import { kernelOf } from '../../../test/support/render';
import { randomEvents, randomValues, runWithEvents } from '../../../test/support/randomSettings';
import { Noise } from '../dsp/noise';
import { SeededRandom } from '../math/random';
import { MAXIMUM_BLOCK } from './kernel';
import { EFFECTS } from './registry';

const RATES = [44100, 48000, 96000];
const CASES = Array.from({ length: 18 }, (_, n) => n + 1);

/** Bursts with silence between them, different on both sides. */
function bursts(frames: number, seed: number): { left: Float32Array; right: Float32Array } {
  const noise = new Noise(seed);
  const level = (n: number) => (Math.floor(n / 2200) % 2 === 0 ? 0.6 : 0.02);
  return {
    left: Float32Array.from({ length: frames }, (_, n) => level(n) * noise.pink()),
    right: Float32Array.from({ length: frames }, (_, n) => level(n + 900) * noise.pink()),
  };
}

describe('however its input is cut into blocks, with random settings that are moved and automated while it sounds', () => {
  it.each(EFFECTS.map(({ id }) => [id] as const))('%s gives the same bits', (id) => {
    for (const seed of drawn(id, CASES)) {
      const random = new SeededRandom(seed * 7919);
      const rate = RATES[seed % RATES.length]!;
      const frames = 9000;
      const values = randomValues(id, random);
      const events = randomEvents(id, random, frames, 14);
      const sound = bursts(frames, seed);
      const through = (sizes: number[]) => {
        const kernel = kernelOf(id, values, rate);
        kernel.locate(1234 + seed);
        return runWithEvents(kernel, id, sound, events, sizes);
      };
      const whole = through([128]);
      for (const sizes of [[1], [37, 5, 128, 64, 2], [127, 400], [MAXIMUM_BLOCK]]) {
        const cut = through(sizes);
        for (const side of ['left', 'right'] as const) {
          const off = cut[side].findIndex((x, n) => !Object.is(x, whole[side][n]));
          expect({ seed, rate, sizes, side, off, values: off < 0 ? null : values }).toMatchObject({ off: -1 });
        }
      }
    }
  });
});
