import { FourierTransform } from '../dsp/fft';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import { hann } from '../math/windows';

/** Level of a band, as the mean over a sound, in dB of full scale. */
export interface BandLevel {
  readonly hz: number;
  readonly db: number;
}

const LOWEST_HZ = 10;
const HIGHEST_HZ = 500;
const BANDS_PER_OCTAVE = 6;
const WINDOW_SECONDS = 0.5;
const SILENCE_DB = -120;

/**
 * Levels of a sound between 10 and 500 Hz in sixths of octaves, where rumble lies: averaged periodograms (Welch 1967). A
 * full-scale sine reads -3 dB.
 * @param left, right sound at `sampleRate`
 */
export function lowSpectrum(left: Float32Array, right: Float32Array, sampleRate: number): BandLevel[] {
  const size = powerOfTwoFrom(Math.round(WINDOW_SECONDS * sampleRate));
  const window = hann(size);
  const transform = new FourierTransform(size);
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  const power = new Float64Array(size / 2);
  let frames = 0;
  for (let start = 0; frames === 0 || start + size <= left.length; start += size / 2) {
    for (let n = 0; n < size; n++) {
      const at = start + n;
      const inside = at < left.length;
      re[n] = inside ? left[at]! * window[n]! : 0;
      im[n] = inside ? right[at]! * window[n]! : 0;
    }
    transform.forward(re, im);
    // Both sides at once: the powers of a frequency and its mirror are those of left and right together.
    for (let bin = 1; bin < size / 2; bin++) {
      power[bin]! += 0.5 * (re[bin]! ** 2 + im[bin]! ** 2 + re[size - bin]! ** 2 + im[size - bin]! ** 2);
    }
    frames++;
  }
  // Power of the window over its length, and both halves of the spectrum.
  const scale = 1 / (frames * 0.375 * size * size);
  const levels: BandLevel[] = [];
  const step = 2 ** (1 / BANDS_PER_OCTAVE);
  for (let hz = LOWEST_HZ; hz < HIGHEST_HZ * 1.01; hz *= step) {
    const from = Math.max(1, Math.round((hz * size) / sampleRate / Math.sqrt(step)));
    const to = Math.max(from + 1, Math.round(((hz * size) / sampleRate) * Math.sqrt(step)));
    let sum = 0;
    for (let bin = from; bin < to; bin++) sum += power[bin]!;
    levels.push({ hz, db: Math.max(SILENCE_DB, 10 * Math.log10(sum * scale + 1e-12)) });
  }
  return levels;
}
