import { FourierTransform } from '../dsp/fft';
import { resample } from '../dsp/resampler';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import { SeededRandom } from '../math/random';

/** A place that is not there: what stands in for a loudspeaker, a room and a recorder. */
export interface SimulatedPlace {
  /** The impulse of each side. */
  readonly paths: readonly Float32Array[];
  /** RMS level of the noise in the recording. */
  readonly noiseDb: number;
  /** Excess of the recorder's clock rate, in ppm. */
  readonly clockPpm: number;
  /** Second and third harmonic of the loudspeaker at full level, as parts of the sound. */
  readonly distortion: number;
  readonly seed: number;
}

/** Silence that the recording has at its beginning and end, in seconds. */
const BEFORE_SECONDS = 0.9;
const AFTER_SECONDS = 0.6;
/** The simulated rate stands this many times above the recorder's, so that clocks can differ by millionths. */
const FINE = 1_000_000;

/** Simulated recording of a sound played in a place. */
export function recordIn(place: SimulatedPlace, played: Float32Array, sampleRate: number): Float32Array[] {
  const { paths, distortion } = place;
  const random = new SeededRandom(place.seed);
  const driven = played.map((x) => x + distortion * (x * x + 0.5 * x * x * x));
  const before = Math.round(BEFORE_SECONDS * sampleRate);
  const length = before + played.length + Math.round(AFTER_SECONDS * sampleRate);
  const noise = 10 ** (place.noiseDb / 20) * Math.sqrt(3);
  return paths.map((path) => {
    const rung = convolved(driven, path);
    const recorded = new Float32Array(length);
    recorded.set(rung.subarray(0, length - before), before);
    const late = place.clockPpm === 0 ? recorded : resample(recorded, FINE, Math.round(FINE + place.clockPpm))!;
    return late.map((x) => x + noise * random.bipolar());
  });
}

function convolved(a: Float32Array, b: Float32Array): Float32Array {
  const size = powerOfTwoFrom(a.length + b.length);
  const transform = new FourierTransform(size);
  // Both are real: one is taken as the real part, the other as the imaginary one.
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  re.set(a);
  im.set(b);
  transform.forward(re, im);
  const productRe = new Float64Array(size);
  const productIm = new Float64Array(size);
  for (let bin = 0; bin < size; bin++) {
    const mirror = (size - bin) % size;
    const aRe = 0.5 * (re[bin]! + re[mirror]!);
    const aIm = 0.5 * (im[bin]! - im[mirror]!);
    const bRe = 0.5 * (im[bin]! + im[mirror]!);
    const bIm = 0.5 * (re[mirror]! - re[bin]!);
    productRe[bin] = aRe * bRe - aIm * bIm;
    productIm[bin] = aRe * bIm + aIm * bRe;
  }
  transform.forward(productIm, productRe);
  return Float32Array.from(productRe.subarray(0, a.length + b.length - 1), (x) => x / size);
}
