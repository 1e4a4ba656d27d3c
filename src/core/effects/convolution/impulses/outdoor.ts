import { airLossDb } from '../../../dsp/airAbsorption';
import { dbToGain, exp } from '../../../math/elementary';
import { SeededRandom } from '../../../math/random';
import { SOUND_SPEED } from '../../../dsp/airAbsorption';
import { number } from '../../spec';
import { BAND_HZ, sumOfBands } from './bands';
import { metres, noiseOf, share, type Simulator } from './simulator';

const LN_1000 = 6.907755278982137;

/**
 * A place without a roof: a wall a way off that slaps back, ground under the feet, walls further away, and leaves and
 * stones that scatter a little. Air takes the highs away by the way (ISO 9613-1).
 */
export const outdoor: Simulator = {
  id: 'outdoor',
  name: 'Outdoors',
  purpose: 'A slap from a wall across the yard, and what lies around.',
  parameters: [
    metres('distance', 'Wall', 5, 400, 40, 'How far away the nearest wall is.'),
    number({
      id: 'walls',
      name: 'Walls',
      group: 'Place',
      unit: '',
      min: 1,
      max: 6,
      default: 3,
      scale: 'linear',
      help: 'How many walls give an echo back.',
    }),
    share('hardness', 'Hardness', 'Place', 75, 'How much a wall gives back.'),
    share('scatter', 'Scattering', 'Place', 35, 'How much the surroundings blur.'),
  ],
  simulate(figures, seed, sampleRate, progress = () => {}) {
    const random = new SeededRandom(5003 + seed);
    const distance = figures('distance');
    const walls = Math.round(figures('walls'));
    const hardness = figures('hardness') / 100;
    const scatter = figures('scatter') / 100;
    const echoes = Array.from({ length: walls }, (_, n) => ({
      metres: 2 * distance * (1 + n * (0.55 + 0.3 * random.uniform())),
      side: random.bipolar(),
      gain: (n % 2 === 0 ? 1 : -1) * hardness,
    }));
    const farthest = Math.max(...echoes.map((one) => one.metres));
    const frames = Math.ceil(((farthest / SOUND_SPEED) * 1.1 + 0.7) * sampleRate);
    const noise = [0, 1].map(() => noiseOf(frames, random));
    return sumOfBands(frames, sampleRate, (add) =>
      BAND_HZ.forEach((hz, band) => {
        progress(band / BAND_HZ.length);
        const air = airLossDb(hz);
        const sides = [new Float64Array(frames), new Float64Array(frames)] as const;
        // The ground, at once and half lost in what grows there.
        const ground = Math.round(0.0042 * sampleRate);
        for (const side of sides) side[ground] = 0.5 / (1 + hz / 3000);
        for (const { metres: way, side, gain } of echoes) {
          const at = Math.round((way / SOUND_SPEED) * sampleRate);
          const level = (gain * 20 * dbToGain(-air * way)) / (20 + way) / (1 + hz / 14000);
          const [left, right] = [Math.sqrt((1 - side) / 2), Math.sqrt((1 + side) / 2)];
          sides[0][at] = sides[0][at]! + level * left;
          sides[1][at] = sides[1][at]! + level * right;
          // Rough walls answer over a while.
          const blur = Math.round((0.02 + 0.06 * scatter) * sampleRate);
          for (let n = 0; n < blur && at + n < frames; n++) {
            const fall = scatter * 0.16 * exp((-3 * n) / blur) * level;
            sides[0][at + n] = sides[0][at + n]! + fall * left * noise[0]![n]!;
            sides[1][at + n] = sides[1][at + n]! + fall * right * noise[1]![n]!;
          }
        }
        const decay = 0.5 / (1 + hz / 5000);
        for (let n = 0; n < frames; n++) {
          const gain = 0.012 * scatter * exp((-LN_1000 * n) / decay / sampleRate);
          for (const side of [0, 1] as const) sides[side][n] = sides[side][n]! + gain * noise[side]![n]!;
        }
        add([band], sides[0], sides[1]);
      }),
    );
  },
};
