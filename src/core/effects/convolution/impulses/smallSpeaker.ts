import { StateVariableFilter } from '../../../dsp/stateVariableFilter';
import { exp } from '../../../math/elementary';
import { SeededRandom } from '../../../math/random';
import { number } from '../../spec';
import { share, type Simulator } from './simulator';

const SECONDS = 0.25;

/** Adds a sound through a resonance to another. */
function addRing(out: Float64Array, hz: number, q: number, gain: number, sampleRate: number): void {
  const filter = new StateVariableFilter(sampleRate);
  filter.configure('bandPass', hz, q);
  const ring = new Float64Array(out.length);
  ring[0] = 1;
  filter.process(ring, ring.length);
  for (let n = 0; n < out.length; n++) out[n] = out[n]! + gain * ring[n]!;
}

/**
 * A small loudspeaker in a box: a second-order low end at its resonance, a paper cone that breaks up, a box that rings,
 * and an edge that the sound bends round (Small, "Closed-box loudspeaker systems", 1972).
 */
export const smallSpeaker: Simulator = {
  id: 'speaker',
  name: 'Small loudspeaker',
  purpose: 'A little cone in a box: what comes out of a telephone, a radio or a doll.',
  parameters: [
    number({
      id: 'resonance',
      name: 'Resonance',
      group: 'Loudspeaker',
      unit: 'Hz',
      min: 60,
      max: 1200,
      default: 280,
      scale: 'log',
      help: 'Below this it gives up, 12 dB an octave.',
    }),
    number({
      id: 'q',
      name: 'Q of the resonance',
      group: 'Loudspeaker',
      unit: '',
      min: 0.5,
      max: 6,
      default: 1.6,
      scale: 'log',
      help: 'How much it booms there.',
    }),
    number({
      id: 'top',
      name: 'Top',
      group: 'Loudspeaker',
      unit: 'Hz',
      min: 1500,
      max: 16000,
      default: 5200,
      scale: 'log',
      help: 'Above this the cone does not follow.',
    }),
    share('breakup', 'Break-up', 'Loudspeaker', 50, 'How much the cone rings in parts.'),
    share('box', 'Box', 'Loudspeaker', 40, 'How much the box rings.'),
  ],
  simulate(figures, seed, sampleRate, progress = () => {}) {
    const random = new SeededRandom(6007 + seed);
    const frames = Math.ceil(SECONDS * sampleRate);
    const sides = [0, 1].map((side) => {
      progress(side / 2);
      const out = new Float64Array(frames);
      out[0] = 1;
      const top = figures('top');
      const breakup = figures('breakup') / 100;
      for (let n = 0; n < 5; n++)
        addRing(out, top * (0.45 + 0.16 * n + 0.05 * random.uniform()), 9, breakup * 0.7, sampleRate);
      const box = figures('box') / 100;
      for (let n = 0; n < 3; n++)
        addRing(out, figures('resonance') * (1.7 + 0.9 * n + 0.2 * random.uniform()), 7, box * 0.5, sampleRate);
      // The edge of the box, a little later on the one side.
      const edge = Math.round((0.00018 + 0.00007 * side) * sampleRate);
      for (let n = frames - 1; n >= edge; n--) out[n] = out[n]! - 0.3 * out[n - edge]!;
      const filter = new StateVariableFilter(sampleRate);
      filter.configure('highPass', figures('resonance'), figures('q'));
      filter.process(out, frames);
      for (const q of [0.54, 1.3]) {
        filter.reset();
        filter.configure('lowPass', top, q);
        filter.process(out, frames);
      }
      return Float32Array.from(out, (x, n) => x * exp((-14 * n) / frames));
    });
    return sides;
  },
};
