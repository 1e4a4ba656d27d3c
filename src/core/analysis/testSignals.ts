import { Noise } from '../dsp/noise';
import { TWO_PI } from '../math/circle';
import { exp, log, sin } from '../math/elementary';
import type { Samples } from '../engine/plan';

const EDGE_SECONDS = 0.005;

export interface TestSignal {
  readonly id: string;
  readonly name: string;
  /** Use of the signal. */
  readonly use: string;
  readonly seconds: number;
}

export const TEST_SIGNALS: readonly TestSignal[] = [
  { id: 'click', name: 'Click', use: 'One frame at full scale: shows every repeat and reflection.', seconds: 1 },
  {
    id: 'sine',
    name: 'Sine, 1 kHz',
    use: 'A steady tone at -12 dB: shows bent pitch, distortion and wear.',
    seconds: 4,
  },
  {
    id: 'sweep',
    name: 'Sweep, 20 Hz to 20 kHz',
    use: 'Rises by octaves at -12 dB: shows filters and combs.',
    seconds: 8,
  },
  { id: 'noise', name: 'Pink noise', use: 'All octaves alike, both sides alike: shows tone and notches.', seconds: 8 },
  {
    id: 'chord',
    name: 'Chord across the field',
    use: 'D on the left, F in the centre, A on the right: shows what happens to places.',
    seconds: 6,
  },
];

/** The notes of the chord, with their gains on the left and on the right. */
const CHORD = [
  [146.8324, 1, 0],
  [174.6141, Math.SQRT1_2, Math.SQRT1_2],
  [220, 0, 1],
] as const;

/**
 * Renders a test signal.
 * @param id of TEST_SIGNALS
 */
export function renderTestSignal(id: string, sampleRate: number): Samples {
  const signal = TEST_SIGNALS.find((one) => one.id === id);
  if (!signal) throw new Error(`There is no test signal ${id}`);
  const frames = Math.round(signal.seconds * sampleRate);
  const mono = (at: (n: number) => number): Samples => {
    const sound = Float32Array.from({ length: frames }, (_, n) => at(n) * edge(n, frames, sampleRate));
    return { left: sound, right: sound };
  };
  switch (id) {
    case 'click': {
      const sound = new Float32Array(frames);
      sound[0] = 1;
      return { left: sound, right: sound };
    }
    case 'sine':
      return mono((n) => 0.25 * sin(turn((1000 * n) / sampleRate)));
    case 'sweep': {
      // Exponential sine sweep (Farina, "Simultaneous measurement of impulse response and distortion", 2000).
      const top = Math.min(20000, 0.45 * sampleRate);
      const octaves = log(top / 20);
      return mono((n) => 0.25 * sin(turn(((20 * signal.seconds) / octaves) * (exp((n / frames) * octaves) - 1))));
    }
    case 'noise': {
      const noise = new Noise(1901);
      return mono(() => 0.5 * noise.pink());
    }
    default: {
      const side = (channel: 1 | 2) =>
        Float32Array.from({ length: frames }, (_, n) => {
          const tone = CHORD.reduce((sum, note) => sum + note[channel] * pluck(note[0], n / sampleRate), 0);
          return 0.25 * tone * edge(n, frames, sampleRate);
        });
      return { left: side(1), right: side(2) };
    }
  }
}

/** A phase within one turn, so that the sine stays exact. */
const turn = (cycles: number) => TWO_PI * (cycles - Math.floor(cycles));

/** A note with a few harmonics that dies away slowly. */
function pluck(hz: number, seconds: number): number {
  const tone = [1, 0.4, 0.2].reduce((sum, level, k) => sum + level * sin(turn(hz * (k + 1) * seconds)), 0);
  return tone * exp(-seconds / 2.5);
}

function edge(n: number, frames: number, sampleRate: number): number {
  const length = EDGE_SECONDS * sampleRate;
  return Math.min(1, n / length, (frames - n) / length);
}
