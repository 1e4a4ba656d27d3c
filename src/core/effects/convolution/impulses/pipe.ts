import { TWO_PI } from '../../../math/circle';
import { exp } from '../../../math/elementary';
import { SOUND_SPEED } from '../../../dsp/airAbsorption';
import { settled } from '../../../math/settled';
import { number } from '../../spec';
import { LONGEST_SECONDS, metres, oneOf, type Simulator } from './simulator';

const LN_1000 = 6.907755278982137;

/** Kinds of far ends. */
const ENDS = [
  { id: 'open', name: 'Open' },
  { id: 'closed', name: 'Closed' },
] as const;

/**
 * A pipe as a line with two ends (Smith, "Physical Audio Signal Processing", 2010): an open end gives back all lows with
 * their sign turned and lets highs out, the more so the wider it is (Levine and Schwinger, 1948); a closed one gives all
 * back. Walls take some away on the way, more of the highs (Kirchhoff).
 */
export const pipe: Simulator = {
  id: 'pipe',
  name: 'Pipe',
  purpose: 'A tube with an open mouth; it rings at the notes of its length.',
  parameters: [
    metres('length', 'Length', 0.1, 40, 1.6, 'From the mouth to the far end.'),
    number({
      id: 'radius',
      name: 'Radius',
      group: 'Size',
      unit: 'm',
      min: 0.005,
      max: 0.6,
      default: 0.04,
      scale: 'log',
      help: 'Wide pipes let their highs out, narrow ones lose them at their walls.',
    }),
    oneOf(
      'end',
      'Far end',
      'Size',
      'open',
      ENDS,
      'An open end gives all harmonics, a closed one the odd ones an octave lower.',
    ),
    number({
      id: 'listen',
      name: 'Heard from',
      group: 'Places',
      unit: '%',
      min: 0,
      max: 90,
      default: 12,
      scale: 'linear',
      help: 'How far inside the mouth one listens.',
    }),
  ],
  simulate(figures, _seed, sampleRate, progress = () => {}) {
    const length = figures('length');
    const radius = figures('radius');
    const sign = figures('end') === 0 ? -1 : 1;
    const way = Math.max(2, Math.round((length / SOUND_SPEED) * sampleRate));
    const ear = Math.min(way - 1, Math.round((figures('listen') / 100) * way));
    // The mouth reflects what is longer than its width: half of it at ka = 1.
    const mouthShare = 1 - exp((-TWO_PI * 0.6 * SOUND_SPEED) / (TWO_PI * radius) / sampleRate);
    // Loss at the walls of 1 kHz, in nepers a metre.
    const wall = (3e-5 * Math.sqrt(1000)) / radius;
    const kept = exp(-wall * length);
    const wallShare = 1 - exp((-TWO_PI * 9000) / (1 + 30 * wall * length) / sampleRate);
    const seconds = Math.min(
      LONGEST_SECONDS,
      0.15 + (LN_1000 / (2 * wall * length + 0.12)) * ((2 * length) / SOUND_SPEED),
    );
    const frames = Math.ceil(seconds * sampleRate);
    const there = new Float64Array(way);
    const back = new Float64Array(way);
    const out = [new Float32Array(frames), new Float32Array(frames)];
    let mouth = 0;
    let far = 0;
    let walls = 0;
    for (let n = 0; n < frames; n++) {
      if ((n & 65535) === 0) progress(n / frames);
      const at = n % way;
      const arrivedFar = there[at]!;
      const arrivedMouth = back[at]!;
      mouth += settled(mouthShare * (arrivedMouth - mouth));
      walls += settled(wallShare * (kept * arrivedFar - walls));
      if (sign < 0) far += settled(mouthShare * (walls - far));
      else far = walls;
      there[at] = (n === 0 ? 1 : 0) - kept * mouth;
      back[at] = sign * far;
      const inward = there[(n - ear + way) % way]!;
      const outward = back[(n + ear) % way]!;
      // The mouth radiates what it does not reflect.
      out[0]![n] = inward + 0.6 * outward + 0.3 * (arrivedMouth - mouth);
      out[1]![n] = 0.6 * inward + outward + 0.3 * (arrivedMouth - mouth);
    }
    return out;
  },
};
