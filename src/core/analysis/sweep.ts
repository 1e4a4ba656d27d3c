import { FourierTransform } from '../dsp/fft';
import { resample } from '../dsp/resampler';
import { KinetikonError } from '../errors';
import { topOf } from '../math/parabola';
import { powerOfTwoFrom } from '../math/powerOfTwo';

/** Settings of the measurement signal. */
export interface SweepSettings {
  /** Length of the sweep, 1 to 30. */
  readonly seconds: number;
  readonly fromHz: number;
  readonly toHz: number;
  /** Peak in dB of full scale. */
  readonly levelDb: number;
  /** Silence for the decay of the place, in seconds, 0.5 to 20. */
  readonly decaySeconds: number;
}

export const SWEEP: SweepSettings = { seconds: 8, fromHz: 30, toHz: 20000, levelDb: -6, decaySeconds: 4 };

/** Result of the analysis of a recorded sweep. */
export interface Recovered {
  /** The impulse of each side, the first arrival a little after its beginning, its noise faded out. */
  readonly paths: readonly Float32Array[];
  /** Excess of the recorder's clock rate over the player's, in ppm. */
  readonly clockPpm: number;
  /** Level of the noise that was left in the impulse, under its peak. */
  readonly noiseDb: number;
  /** Energy of the second to fifth harmonic against that of the impulse. */
  readonly distortionDb: number;
}

/** A short sweep that tells where the long one is, before and after it. */
const PILOT_SECONDS = 0.25;
const PILOT_FROM_HZ = 400;
const PILOT_TO_HZ = 6000;
const GAP_SECONDS = 0.75;
const FADE_SECONDS = 0.01;
/** Kept before the first arrival. */
const LEAD_SECONDS = 0.002;
const HARMONICS = 5;
/** A third and an eighth of an octave within the range of the sweep, as natural logarithms. */
const LOW_EDGE = Math.LN2 / 3;
const HIGH_EDGE = Math.LN2 / 8;
/** A recorder's clock is off by less than this. */
const MOST_PPM = 1500;
/** A pilot is told from noise by a peak so many times the mean around it. */
const CLEAR = 12;

const bad = (message: string, next: string) =>
  new KinetikonError('impulse.bad', message, { kept: 'Nothing was changed.', next });

/** An exponential sweep: its frequency rises by the same ratio in the same time (Farina, AES 108, 2000, eq. 5). */
function sweepOf(seconds: number, fromHz: number, toHz: number, sampleRate: number): Float32Array {
  const frames = Math.round(seconds * sampleRate);
  const span = Math.log(toHz / fromHz);
  const scale = (2 * Math.PI * fromHz * seconds) / span;
  const fade = Math.round(FADE_SECONDS * sampleRate);
  return Float32Array.from({ length: frames }, (_, n) => {
    const edge = Math.min(1, n / fade, (frames - n) / fade);
    return Math.sin(scale * (Math.exp((n / frames) * span) - 1)) * Math.sin((Math.PI / 2) * edge) ** 2;
  });
}

const topHz = ({ toHz }: SweepSettings, sampleRate: number) => Math.min(toHz, 0.46 * sampleRate);

/** Positions of the parts of the signal, in frames. */
function layout({ seconds, decaySeconds }: SweepSettings, sampleRate: number) {
  const frames = (time: number) => Math.round(time * sampleRate);
  const first = frames(0.25);
  const sweep = first + frames(PILOT_SECONDS + GAP_SECONDS);
  const second = sweep + frames(seconds + decaySeconds);
  return { first, sweep, second, end: second + frames(PILOT_SECONDS + GAP_SECONDS) };
}

/**
 * The sound to be played in a place: a short pilot, the sweep, silence for its decay, the pilot once more.
 * @returns one channel
 */
export function measurementSignal(settings: SweepSettings, sampleRate: number): Float32Array {
  const { first, sweep, second, end } = layout(settings, sampleRate);
  const gain = 10 ** (settings.levelDb / 20);
  const out = new Float32Array(end);
  const put = (sound: Float32Array, at: number) => sound.forEach((x, n) => (out[at + n] = gain * x));
  const pilot = sweepOf(PILOT_SECONDS, PILOT_FROM_HZ, PILOT_TO_HZ, sampleRate);
  put(pilot, first);
  put(sweepOf(settings.seconds, settings.fromHz, topHz(settings, sampleRate), sampleRate), sweep);
  put(pilot, second);
  return out;
}

/** Spectrum of a sound, padded to a size. */
function spectrumOf(sound: ArrayLike<number>, size: number, transform: FourierTransform) {
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  for (let n = 0; n < Math.min(size, sound.length); n++) re[n] = sound[n]!;
  transform.forward(re, im);
  return { re, im };
}

/** The sound of a spectrum; with both parts exchanged a transform is its own inverse. */
function soundOf(re: Float64Array, im: Float64Array, transform: FourierTransform): Float64Array {
  transform.forward(im, re);
  for (let n = 0; n < re.length; n++) re[n] = re[n]! / re.length;
  return re;
}

/** The two strongest matches of a pilot in a recording, at least `apart` frames from one another, in fractional frames. */
function findPilots(recording: Float32Array, pilot: Float32Array, apart: number): [number, number] {
  const size = powerOfTwoFrom(recording.length + pilot.length);
  const transform = new FourierTransform(size);
  const a = spectrumOf(recording, size, transform);
  const b = spectrumOf(pilot, size, transform);
  for (let bin = 0; bin < size; bin++) {
    const re = a.re[bin]! * b.re[bin]! + a.im[bin]! * b.im[bin]!;
    a.im[bin] = a.im[bin]! * b.re[bin]! - a.re[bin]! * b.im[bin]!;
    a.re[bin] = re;
  }
  const match = soundOf(a.re, a.im, transform).subarray(0, recording.length);
  let sum = 0;
  for (const x of match) sum += Math.abs(x);
  const mean = sum / match.length;
  const strongest = (free: (n: number) => boolean) => {
    let best = -1;
    for (let n = 1; n < match.length - 1; n++) {
      if (free(n) && (best < 0 || Math.abs(match[n]!) > Math.abs(match[best]!))) best = n;
    }
    if (best < 0 || Math.abs(match[best]!) < CLEAR * mean) {
      throw bad(
        'The pilots of the sweep are not in this recording.',
        'Record the whole exported sound, from before it begins.',
      );
    }
    return best;
  };
  const one = strongest(() => true);
  const near = apart * (MOST_PPM / 1e6);
  const other = strongest((n) => Math.abs(Math.abs(n - one) - apart) <= near + 2);
  return [Math.min(one, other), Math.max(one, other)].map((n) => n + between(match, n)) as [number, number];
}

/** Offset of a peak from its frame, by the parabola through its neighbours. */
function between(values: Float64Array, n: number): number {
  return topOf(Math.abs(values[n - 1]!), Math.abs(values[n]!), Math.abs(values[n + 1]!));
}

/**
 * The impulse of a place from a recording of `measurementSignal` there: its clock is found by the pilots and taken out, the
 * sweep is divided out, and what the loudspeaker adds in harmonics comes before the impulse, apart from it (Farina 2000).
 * @param recording one or two channels at `sampleRate`
 * @throws KinetikonError impulse.bad when the pilots or an end of the sweep are not in it
 */
export function recoverImpulse(
  recording: readonly Float32Array[],
  settings: SweepSettings,
  sampleRate: number,
  progress: (share: number) => void = () => {},
): Recovered {
  const places = layout(settings, sampleRate);
  const pilot = sweepOf(PILOT_SECONDS, PILOT_FROM_HZ, PILOT_TO_HZ, sampleRate);
  const apart = places.second - places.first;
  const frames = places.second - places.sweep;
  if (recording[0]!.length < apart) {
    throw bad(
      `The recording is shorter than the sweep with its pilots, ${(apart / sampleRate).toFixed(1)} s.`,
      'Record the whole exported sound.',
    );
  }
  const [first, second] = findPilots(recording[0]!, pilot, apart);
  progress(0.2);
  const pace = (second - first) / apart;
  const start = first + (places.sweep - places.first) * pace;
  const paths = recording.map((side, n) => {
    progress(0.2 + (0.3 * n) / recording.length);
    const from = Math.max(0, Math.round(start));
    return resample(side.subarray(from, from + Math.ceil(frames * pace)), sampleRate * pace, sampleRate)!;
  });
  const top = topHz(settings, sampleRate);
  const gain = 10 ** (settings.levelDb / 20);
  const sweep = sweepOf(settings.seconds, settings.fromHz, top, sampleRate).map((x) => gain * x);
  const size = powerOfTwoFrom(frames + sweep.length);
  const transform = new FourierTransform(size);
  const played = spectrumOf(sweep, size, transform);
  const answers = paths.map((path, n) => {
    progress(0.5 + (0.4 * n) / paths.length);
    return divided(path, played, transform, settings.fromHz, top, sampleRate);
  });
  // A harmonic arrives earlier by the time in which the sweep comes to its frequency (Farina 2000, eq. 21).
  const earlier = (order: number) =>
    Math.round(((settings.seconds * Math.log(order)) / Math.log(top / settings.fromHz)) * sampleRate);
  const energy = (answer: Float64Array, from: number, to: number) => {
    let sum = 0;
    for (let n = from; n < to; n++) sum += answer[(n + size) % size]! ** 2;
    return sum;
  };
  const length = Math.round(settings.decaySeconds * sampleRate);
  const lead = Math.round(LEAD_SECONDS * sampleRate);
  let linear = 0;
  let distorted = 0;
  for (const answer of answers) {
    linear += energy(answer, -lead, length);
    for (let order = 2; order <= HARMONICS; order++) {
      const half = Math.floor((earlier(order + 1) - earlier(order)) / 2);
      distorted += energy(answer, -earlier(order) - lead, -earlier(order) + half);
    }
  }
  const sides = answers.map((answer) =>
    Float32Array.from({ length: length + lead }, (_, n) => answer[(n - lead + size) % size]!),
  );
  const peak = Math.max(...sides.map((side) => side.reduce((most, x) => Math.max(most, Math.abs(x)), 0)));
  const noise = Math.max(...sides.map((side) => rms(side.subarray(Math.floor(0.9 * side.length)))));
  progress(1);
  return {
    paths: sides.map((side) => withoutNoise(side, sampleRate)),
    clockPpm: (pace - 1) * 1e6,
    noiseDb: 20 * Math.log10(noise / peak + 1e-9),
    distortionDb: 10 * Math.log10(distorted / linear + 1e-12),
  };
}

function rms(sound: Float32Array): number {
  let sum = 0;
  for (const x of sound) sum += x * x;
  return Math.sqrt(sum / Math.max(1, sound.length));
}

/** A recording with the sweep divided out, which fades away towards the ends of the sweep's range. */
function divided(
  recording: Float32Array,
  played: { readonly re: Float64Array; readonly im: Float64Array },
  transform: FourierTransform,
  fromHz: number,
  toHz: number,
  sampleRate: number,
): Float64Array {
  const { size } = transform;
  const { re, im } = spectrumOf(recording, size, transform);
  const inside = (hz: number) => {
    if (hz <= fromHz || hz >= toHz) return 0;
    const rise = Math.min(1, Math.log(hz / fromHz) / LOW_EDGE, Math.log(toHz / hz) / HIGH_EDGE);
    return rise * rise * (3 - 2 * rise);
  };
  for (let bin = 0; bin <= size / 2; bin++) {
    const power = played.re[bin]! ** 2 + played.im[bin]! ** 2 + 1e-6;
    const share = inside((bin * sampleRate) / size) / power;
    const real = (re[bin]! * played.re[bin]! + im[bin]! * played.im[bin]!) * share;
    const imaginary = (im[bin]! * played.re[bin]! - re[bin]! * played.im[bin]!) * share;
    re[bin] = real;
    im[bin] = imaginary;
    if (bin > 0 && bin < size / 2) {
      re[size - bin] = real;
      im[size - bin] = -imaginary;
    }
  }
  return soundOf(re, im, transform);
}

/** The impulse up to where it sinks into its noise, with a fade there. */
function withoutNoise(side: Float32Array, sampleRate: number): Float32Array {
  const step = Math.round(0.02 * sampleRate);
  const floor = rms(side.subarray(Math.floor(0.9 * side.length)));
  let end = side.length;
  while (end > 4 * step && rms(side.subarray(end - step, end)) < 1.6 * floor) end -= step;
  const out = side.slice(0, Math.min(side.length, end + step));
  const fade = Math.min(out.length, 4 * step);
  for (let n = 0; n < fade; n++) out[out.length - 1 - n] = out[out.length - 1 - n]! * (n / fade);
  return out;
}
