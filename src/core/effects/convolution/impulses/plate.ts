import { FourierTransform } from '../../../dsp/fft';
import { TWO_PI } from '../../../math/circle';
import { cos, exp, sin } from '../../../math/elementary';
import { SeededRandom } from '../../../math/random';
import { number } from '../../spec';
import { LONGEST_SECONDS, metres, noiseOf, type Simulator } from './simulator';

const LN_1000 = 6.907755278982137;
/** Speed of bending waves in steel: the square of the wavelength times the frequency is 1.8 c h (Cremer and Heckl, 1988). */
const BENDING = 1.8 * 5200;
/** Single echoes are worked out to this time, and what has no number any more from half of it on. */
const SINGLE_SECONDS = 0.045;
/** Lows are slow: their single echoes take so long. */
const SINGLE_LENGTH_SECONDS = 0.6;
/** Echoes that are told apart, the nearest ones. */
const MOST_PATHS = 90;
const LOWEST_HZ = 30;
/** At full damping the decay is half as long here as it would be at 0 Hz. */
const FULLY_DAMPED_HZ = 1200;

/**
 * A steel plate: bending waves run the faster the higher they are, so that every echo is a sweep downward; echoes by image
 * sources in the plane, then a dense tail. Decay falls with frequency by what damps the plate.
 */
export const plate: Simulator = {
  id: 'plate',
  name: 'Plate',
  purpose: 'A hanging sheet of steel, driven near its middle and picked up at two places.',
  parameters: [
    metres('width', 'Width', 0.3, 4, 2, 'Longer side of the sheet.'),
    metres('height', 'Height', 0.3, 2, 1, 'Shorter side of the sheet.'),
    number({
      id: 'thickness',
      name: 'Thickness',
      group: 'Size',
      unit: 'm',
      min: 0.0002,
      max: 0.003,
      default: 0.0005,
      scale: 'log',
      help: 'Thin sheets are dense and dark, thick ones ring apart.',
    }),
    number({
      id: 'decay',
      name: 'Decay',
      group: 'Damping',
      unit: 's',
      min: 0.2,
      max: 8,
      default: 2.5,
      scale: 'log',
      help: 'Time in which 500 Hz fall by 60 dB.',
    }),
    number({
      id: 'damping',
      name: 'Damping of highs',
      group: 'Damping',
      unit: '%',
      min: 0,
      max: 100,
      default: 45,
      scale: 'linear',
      help: 'How much sooner the highs are gone than the middle.',
    }),
  ],
  simulate(figures, seed, sampleRate, progress = () => {}) {
    const [width, height, thickness] = [figures('width'), figures('height'), figures('thickness')];
    const decay = figures('decay');
    const damping = figures('damping') / 100;
    const random = new SeededRandom(8009 + seed);
    const frames = Math.ceil(Math.min(LONGEST_SECONDS, 1.3 * decay + SINGLE_SECONDS) * sampleRate);
    let size = 16;
    while (size < SINGLE_LENGTH_SECONDS * sampleRate) size *= 2;
    // The decay asked for is that of 500 Hz.
    const decayAt = (hz: number) =>
      (decay * (1 + (damping * 500) / FULLY_DAMPED_HZ)) / (1 + (damping * hz) / FULLY_DAMPED_HZ);
    // Speed of energy by frequency, twice that of the phase.
    const phaseSpeed = (hz: number) => Math.sqrt(BENDING * thickness * hz);
    const driver = { x: 0.42 * width, y: 0.46 * height };
    const pickups = [
      { x: (0.12 + 0.03 * random.uniform()) * width, y: (0.31 + 0.04 * random.uniform()) * height },
      { x: (0.86 + 0.03 * random.uniform()) * width, y: (0.68 + 0.04 * random.uniform()) * height },
    ];
    const reach = 2 * phaseSpeed(6000) * SINGLE_SECONDS;
    const transform = new FourierTransform(size);
    const re = new Float64Array(size);
    const im = new Float64Array(size);
    const most = Math.min(12, Math.ceil(reach / Math.min(width, height)));
    pickups.forEach(({ x, y }, side) => {
      const paths: number[] = [];
      for (let m = -most; m <= most; m++) {
        for (let n = -most; n <= most; n++) {
          for (const flipX of [1, -1]) {
            for (const flipY of [1, -1]) {
              const dx = 2 * m * width + flipX * driver.x - x;
              const dy = 2 * n * height + flipY * driver.y - y;
              const path = Math.sqrt(dx * dx + dy * dy);
              if (path < reach) paths.push(path);
            }
          }
        }
      }
      paths.sort((a, b) => a - b);
      paths.length = Math.min(paths.length, MOST_PATHS);
      const farthest = paths.at(-1)!;
      progress(0.4 * side);
      for (let bin = 1; bin < size / 2; bin++) {
        const hz = (bin * sampleRate) / size;
        if (hz < LOWEST_HZ) continue;
        const wave = (TWO_PI * hz) / phaseSpeed(hz);
        const loss = LN_1000 / decayAt(hz) / (2 * phaseSpeed(hz));
        let real = 0;
        let imaginary = 0;
        for (const path of paths) {
          // A path that is nearly at the end of what is single fades into the tail.
          const end = path / farthest;
          const gain = (exp(-loss * path) * (end > 0.6 ? (1 - end) / 0.4 : 1)) / Math.sqrt(0.3 + path);
          const angle = wave * path;
          real += gain * cos(angle);
          imaginary -= gain * sin(angle);
        }
        const soft = Math.min(1, hz / 120);
        const part = soft / Math.sqrt(paths.length);
        // The left pickup is the real sound, the right one the imaginary one.
        if (side === 0) {
          re[bin] = re[bin]! + part * real;
          im[bin] = im[bin]! + part * imaginary;
          re[size - bin] = re[size - bin]! + part * real;
          im[size - bin] = im[size - bin]! - part * imaginary;
        } else {
          re[bin] = re[bin]! - part * imaginary;
          im[bin] = im[bin]! + part * real;
          re[size - bin] = re[size - bin]! + part * imaginary;
          im[size - bin] = im[size - bin]! + part * real;
        }
      }
    });
    transform.forward(im, re);
    const single = [re, im].map((part) =>
      Float64Array.from({ length: frames }, (_, n) => (n < size ? part[n]! / size : 0)),
    );
    progress(0.8);
    const level = Math.sqrt(
      single.reduce(
        (sum, side) => sum + power(side, Math.round(0.012 * sampleRate), Math.round(0.022 * sampleRate)),
        0,
      ) / 2,
    );
    return single.map((side) => {
      const tail = dampedNoise(frames, sampleRate, decayAt, random);
      const begin = Math.round(0.012 * sampleRate);
      const full = Math.round(0.03 * sampleRate);
      return Float32Array.from(side, (x, n) => {
        const rise = n < begin ? 0 : n < full ? Math.sqrt((n - begin) / (full - begin)) : 1;
        return x + rise * level * tail[n]!;
      });
    });
  },
};

function power(sound: Float64Array, from: number, to: number): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += sound[n]! * sound[n]!;
  return sum / (to - from);
}

/** Noise of which each octave decays at its own rate, at a power of about 1 at its beginning. */
export function dampedNoise(
  frames: number,
  sampleRate: number,
  decayAt: (hz: number) => number,
  random: SeededRandom,
): Float64Array {
  const out = new Float64Array(frames);
  const noise = noiseOf(frames, random, Math.sqrt(3));
  // Low-passes an octave apart; what lies between two of them falls as its middle does.
  let below: Float64Array = new Float64Array(frames);
  for (let hz = 62.5; hz < 0.9 * sampleRate; hz *= 2) {
    const here = hz > 0.4 * sampleRate ? noise : lowPassed(noise, hz, sampleRate);
    const slope = -LN_1000 / decayAt(hz / Math.SQRT2) / sampleRate;
    let gain = 1;
    const step = exp(slope);
    for (let n = 0; n < frames; n++) {
      out[n] = out[n]! + gain * (here[n]! - below[n]!);
      gain *= step;
    }
    below = here;
    if (here === noise) break;
  }
  return out;
}

/** Three one-pole low-passes in series. */
function lowPassed(sound: Float64Array, hz: number, sampleRate: number): Float64Array {
  const share = 1 - exp((-TWO_PI * 1.6 * hz) / sampleRate);
  const out = sound.slice();
  for (let pass = 0; pass < 3; pass++) {
    let state = 0;
    for (let n = 0; n < out.length; n++) {
      state += share * (out[n]! - state);
      out[n] = state;
    }
  }
  return out;
}
