import { StateVariableFilter } from '../../../dsp/stateVariableFilter';
import { TWO_PI } from '../../../math/circle';
import { exp } from '../../../math/elementary';
import { SeededRandom } from '../../../math/random';
import { number } from '../../spec';
import { LONGEST_SECONDS, share, type Simulator } from './simulator';

const LN_1000 = 6.907755278982137;
const SECTIONS = 90;
/** First-order all-pass sections of this coefficient bend the sweep as a coil does. */
const COEFFICIENT = 0.62;
/** A Butterworth low-pass of the eighth order. */
const LOW_PASS_Q = [0.5098, 0.6013, 0.9, 2.5629];
/** A coil carries nothing lower. */
const LOWEST_HZ = 90;

/**
 * Helical springs: low sounds run along a spring the slower the nearer they come to a cut-off, so that echoes are chirps
 * that rise. A chain of stretched all-pass sections in a loop with a delay (Välimäki, Parker and Abel, "Parametric spring
 * reverberation effect", 2010).
 */
export const spring: Simulator = {
  id: 'spring',
  name: 'Springs',
  purpose: 'Two or three coils that chirp at every echo.',
  parameters: [
    number({
      id: 'springs',
      name: 'Springs',
      group: 'Coils',
      unit: '',
      min: 1,
      max: 3,
      default: 2,
      scale: 'linear',
      help: 'How many coils sound together.',
    }),
    number({
      id: 'delay',
      name: 'Travel time per coil',
      group: 'Coils',
      unit: 'ms',
      min: 15,
      max: 90,
      default: 38,
      scale: 'log',
      help: 'Time between the echoes of the first coil.',
    }),
    number({
      id: 'cutoff',
      name: 'Cut-off',
      group: 'Coils',
      unit: 'Hz',
      min: 1500,
      max: 6000,
      default: 3800,
      scale: 'log',
      help: 'Nothing above this runs along a coil; just below it is slowest.',
    }),
    number({
      id: 'decay',
      name: 'Decay',
      group: 'Coils',
      unit: 's',
      min: 0.3,
      max: 8,
      default: 2.2,
      scale: 'log',
      help: 'Time in which the echoes fall by 60 dB.',
    }),
    share('drip', 'Drip', 'Coils', 50, 'How far the chirps are drawn out.'),
  ],
  simulate(figures, seed, sampleRate, progress = () => {}) {
    const springs = Math.round(figures('springs'));
    const decay = figures('decay');
    const cutoff = figures('cutoff');
    const drip = figures('drip') / 100;
    const random = new SeededRandom(9001 + seed);
    const frames = Math.ceil(Math.min(LONGEST_SECONDS, 1.25 * decay + 0.2) * sampleRate);
    const sides = [new Float64Array(frames), new Float64Array(frames)];
    const stretch = Math.max(1, Math.round(sampleRate / (2 * cutoff)));
    const sections = Math.max(4, Math.round(SECTIONS * (0.2 + 1.3 * drip)));
    for (let n = 0; n < springs; n++) {
      progress(n / springs);
      const delay = Math.round((figures('delay') / 1000) * sampleRate * (1 + 0.17 * n + 0.02 * random.bipolar()));
      const passed = coil(frames, sampleRate, delay, stretch, sections, cutoff, decay);
      const toRight = springs === 1 ? 0.5 : n / (springs - 1);
      for (let i = 0; i < frames; i++) {
        sides[0]![i] = sides[0]![i]! + (1 - 0.7 * toRight) * passed[i]!;
        sides[1]![i] = sides[1]![i]! + (0.3 + 0.7 * toRight) * passed[i]!;
      }
    }
    return sides.map((side) => Float32Array.from(side));
  },
};

/**
 * The impulse response of one coil: that of a loop which loses nothing, falling by 60 dB in `decay` seconds. A loss in the
 * loop itself would shorten every frequency by another part, since the chain delays each by another time.
 */
function coil(
  frames: number,
  sampleRate: number,
  delay: number,
  stretch: number,
  sections: number,
  cutoff: number,
  decay: number,
): Float64Array {
  const out = new Float64Array(frames);
  const loop = new Float64Array(frames);
  const ins = Array.from({ length: sections }, () => new Float64Array(stretch));
  const outs = Array.from({ length: sections }, () => new Float64Array(stretch));
  const highShare = 1 - exp((-TWO_PI * LOWEST_HZ) / sampleRate);
  const fall = exp(-LN_1000 / (decay * sampleRate));
  let level = 1;
  let high = 0;
  for (let n = 0; n < frames; n++) {
    let x = (n === 0 ? 1 : 0) - (n >= delay ? loop[n - delay]! : 0);
    const at = n % stretch;
    for (let section = 0; section < sections; section++) {
      // A(z) = (a + z^-k) / (1 + a z^-k).
      const y = COEFFICIENT * x + ins[section]![at]! - COEFFICIENT * outs[section]![at]!;
      ins[section]![at] = x;
      outs[section]![at] = y;
      x = y;
    }
    loop[n] = x;
    x *= level;
    level *= fall;
    high += highShare * (x - high);
    out[n] = x - high;
  }
  for (const q of LOW_PASS_Q) {
    const lowPass = new StateVariableFilter(sampleRate);
    lowPass.configure('lowPass', cutoff, q);
    lowPass.process(out, frames);
  }
  return out;
}
