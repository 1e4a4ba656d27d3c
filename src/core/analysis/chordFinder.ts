import { FourierTransform } from '../dsp/fft';
import type { Scale } from '../effects/scaleKeys';
import { keyOfHz, stepOf } from '../math/keys';
import { topOf } from '../math/parabola';
import { hann } from '../math/windows';

/** A triad on a step of a scale. */
export interface FoundChord {
  /** Steps over C of its root, third and fifth. */
  readonly steps: readonly [root: number, third: number, fifth: number];
  /** Likeness of the sound to it: 1 for nothing else, 0 for chance. */
  readonly likeness: number;
}

/** A stretch of a sound, in seconds. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Windows are at least so long that neighbours among the keys can be told from A2 up. */
const WINDOW_SECONDS = 0.3;
const LOWEST_HZ = 55;
const HIGHEST_HZ = 2000;
/** Peaks this far under the highest are not looked at, nor is a window under this level of a full sine. */
const PEAK_RANGE = 0.01;
const QUIET = 0.0005;
/** Overtones that a peak may be, for which it votes. */
const OVERTONES = 4;
const OVERTONE_SHARE = 0.6;
/** Chords less alike than this are none. */
const LEAST_LIKENESS = 0.2;

/**
 * Which of the triads of a scale sounds in each stretch of a sound: peaks of the spectrum are gathered by pitch class, with
 * what they say for the tones whose overtones they may be (Gomez, "Tonal description of polyphonic audio for music content
 * processing", INFORMS J. Comput. 18, 2006), and compared with every triad (Fujishima, "Realtime chord recognition of
 * musical sound", ICMC 1999). Yields its progress.
 * @param samples one channel
 * @returns one for each stretch; null where nothing like a chord sounds
 */
export function* findChords(
  samples: Float32Array,
  sampleRateHz: number,
  stretches: readonly Stretch[],
  scale: Scale,
): Generator<number, (FoundChord | null)[]> {
  const look = new Look(sampleRateHz);
  const found: (FoundChord | null)[] = [];
  for (const { from, to } of stretches) {
    yield found.length / stretches.length;
    const profile = new Float64Array(12);
    const [first, last] = [Math.round(from * sampleRateHz), Math.round(to * sampleRateHz)];
    // Half of each window lies inside.
    for (let at = first - look.size / 4; at + look.size / 4 < last; at += look.size / 2)
      look.gather(samples, at, profile);
    found.push(chordOf(profile, scale));
  }
  return found;
}

/** One look at the spectrum. */
class Look {
  readonly size: number;
  private readonly transform: FourierTransform;
  private readonly window: Float64Array;
  private readonly re: Float64Array;
  private readonly im: Float64Array;

  constructor(private readonly sampleRateHz: number) {
    this.size = 2 ** Math.ceil(Math.log2(WINDOW_SECONDS * sampleRateHz));
    this.transform = new FourierTransform(this.size);
    this.window = hann(this.size);
    this.re = new Float64Array(this.size);
    this.im = new Float64Array(this.size);
  }

  /** Adds to a profile by pitch class, from C. */
  gather(samples: Float32Array, from: number, profile: Float64Array): void {
    const { size, re, im } = this;
    for (let n = 0; n < size; n++) {
      re[n] = (samples[from + n] ?? 0) * this.window[n]!;
      im[n] = 0;
    }
    this.transform.forward(re, im);
    const binHz = this.sampleRateHz / size;
    const [low, high] = [Math.ceil(LOWEST_HZ / binHz), Math.min(size / 2 - 2, Math.floor(HIGHEST_HZ / binHz))];
    for (let bin = low - 1; bin <= high + 1; bin++) re[bin] = Math.hypot(re[bin]!, im[bin]!);
    let most = 0;
    for (let bin = low; bin <= high; bin++) most = Math.max(most, re[bin]!);
    // A full sine has a quarter of the window's length behind a Hann window.
    if (most < QUIET * (size / 4)) return;
    for (let bin = low; bin <= high; bin++) {
      const [before, here, behind] = [re[bin - 1]!, re[bin]!, re[bin + 1]!];
      if (here < PEAK_RANGE * most || here < before || here <= behind) continue;
      const hz = (bin + topOf(Math.log(before + 1e-20), Math.log(here), Math.log(behind + 1e-20))) * binHz;
      for (let n = 1, share = 1; n <= OVERTONES; n++, share *= OVERTONE_SHARE) {
        const key = keyOfHz(hz / n);
        const whole = Math.round(key);
        // Half way between two keys a peak speaks for neither.
        profile[stepOf(whole)]! += Math.sqrt(here) * share * Math.cos(Math.PI * (key - whole)) ** 2;
      }
    }
  }
}

function chordOf(profile: Float64Array, scale: Scale): FoundChord | null {
  const mean = profile.reduce((sum, one) => sum + one, 0) / 12;
  const spread = Math.sqrt(profile.reduce((sum, one) => sum + (one - mean) ** 2, 0));
  if (spread < 1e-12) return null;
  let best: FoundChord | null = null;
  for (let degree = 0; degree < scale.length; degree++) {
    const on = (above: number) => scale[(degree + above) % scale.length]!;
    const steps = [on(0), on(2), on(4)] as const;
    // The correlation of the profile with 1 for the chord's tones and 0 for all others.
    const inside = steps.reduce((sum, step) => sum + profile[step]! - mean, 0);
    const likeness = inside / (spread * Math.sqrt(3 * (1 - 3 / 12)));
    if (likeness > (best?.likeness ?? LEAST_LIKENESS)) best = { steps, likeness };
  }
  return best;
}

/** Keys of a chord, its root nearest to a key. */
export function voiced({ steps: [root, third, fifth] }: FoundChord, near: number): [number, number, number] {
  const above = (from: number, to: number) => stepOf(to - from);
  const up = above(near, root);
  const base = near + (up > 6 ? up - 12 : up);
  return [base, base + above(root, third), base + above(root, fifth)];
}
