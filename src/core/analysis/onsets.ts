import { FourierTransform } from '../dsp/fft';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import { hann } from '../math/windows';

/** Onsets in seconds, in order. */
export interface Onsets {
  readonly seconds: readonly number[];
}

const FRAME_SECONDS = 0.0213;
const HOP_SECONDS = 0.005;
const LOWEST_HZ = 80;
const HIGHEST_HZ = 12000;
const BANDS_PER_OCTAVE = 6;
/** Bands are compared with those of so many frames before. */
const LAG = 3;
/** A beginning is the largest of its surroundings ... */
const AROUND_SECONDS = 0.05;
/** ... and stands out from the mean of these ... */
const MEAN_SECONDS = 0.2;
/** ... by so many decibels a band. */
const THRESHOLD_DB = 1.6;
/** Nothing begins again so soon ... */
const SHORTEST_GAP_SECONDS = 0.08;
/** ... and up to here only what comes in nearly as strongly: a vowel after its consonant is no beginning. */
const SYLLABLE_SECONDS = 0.2;
const AS_STRONG = 0.8;
/** A fricative has most of its power above this, and falls by no more than this many dB before its vowel. */
const HISS_HZ = 3000;
const HELD_DB = 10;
/** Below the loud parts by this much nothing is heard to begin. */
const BELOW_LOUD_DB = 30;
const SILENCE_DB = -70;
/** A sound counts as begun when it goes on for so long ... */
const SUSTAIN_SECONDS = 0.1;

interface Course {
  /** Rise of level, in dB a band, for each frame. */
  readonly flux: Float64Array;
  /** RMS level of each frame in dB. */
  readonly level: Float64Array;
  /** 1 for frames with most of their power above `HISS_HZ`. */
  readonly hisses: Uint8Array;
  /** Samples between frames. */
  readonly hop: number;
  readonly size: number;
}

/** Bands as bin ranges, a whole number of bins each. */
function bandsOf(size: number, sampleRate: number): number[] {
  const edges: number[] = [];
  const top = Math.min(HIGHEST_HZ, 0.45 * sampleRate);
  for (let hz = LOWEST_HZ; hz <= top; hz *= 2 ** (1 / BANDS_PER_OCTAVE)) {
    const bin = Math.round((hz * size) / sampleRate);
    if (bin > (edges.at(-1) ?? 0)) edges.push(bin);
  }
  return edges;
}

function courseOf(left: Float32Array, right: Float32Array, sampleRate: number): Course {
  const size = powerOfTwoFrom(Math.round(FRAME_SECONDS * sampleRate * 0.75));
  const hop = Math.round(HOP_SECONDS * sampleRate);
  const window = hann(size);
  const transform = new FourierTransform(size);
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  const edges = bandsOf(size, sampleRate);
  const bands = edges.length - 1;
  const frames = Math.max(0, Math.ceil(left.length / hop));
  const flux = new Float64Array(frames);
  const level = new Float64Array(frames);
  const hisses = new Uint8Array(frames);
  const past = Array.from({ length: LAG + 1 }, () => new Float64Array(bands).fill(-120));
  for (let frame = 0; frame < frames; frame++) {
    const start = frame * hop - size / 2;
    let sum = 0;
    for (let n = 0; n < size; n++) {
      const at = start + n;
      const x = at < 0 || at >= left.length ? 0 : 0.5 * (left[at]! + right[at]!) * window[n]!;
      re[n] = x;
      sum += x * x;
    }
    im.fill(0);
    transform.forward(re, im);
    level[frame] = 10 * Math.log10(sum / (0.375 * size) + 1e-12);
    const now = past[frame % past.length]!;
    let [low, high] = [0, 0];
    for (let band = 0; band < bands; band++) {
      let power = 0;
      for (let bin = edges[band]!; bin < edges[band + 1]!; bin++) power += re[bin]! * re[bin]! + im[bin]! * im[bin]!;
      if (edges[band]! * sampleRate < HISS_HZ * size) low += power;
      else high += power;
      now[band] = 10 * Math.log10(power / (size * size) + 1e-9);
    }
    const before = past[(frame + 1) % past.length]!;
    let rise = 0;
    for (let band = 0; band < bands; band++) {
      const was = Math.max(before[band]!, before[Math.max(0, band - 1)]!, before[Math.min(bands - 1, band + 1)]!);
      rise += Math.max(0, now[band]! - was);
    }
    flux[frame] = rise / bands;
    hisses[frame] = high > low ? 1 : 0;
  }
  return { flux, level, hisses, hop, size };
}

function peaksOf(course: Course, hopSeconds: number): number[] {
  const { flux, level } = course;
  const around = Math.round(AROUND_SECONDS / hopSeconds);
  const surroundings = Math.round(MEAN_SECONDS / hopSeconds);
  const gap = Math.round(SHORTEST_GAP_SECONDS / hopSeconds);
  const syllable = Math.round(SYLLABLE_SECONDS / hopSeconds);
  const sustain = Math.round(SUSTAIN_SECONDS / hopSeconds);
  const sounding = [...level].filter((one) => one > SILENCE_DB).sort((a, b) => a - b);
  const floor = Math.max(SILENCE_DB, (sounding[Math.floor(0.9 * (sounding.length - 1))] ?? 0) - BELOW_LOUD_DB);
  const peaks: number[] = [];
  for (let frame = 0; frame < flux.length; frame++) {
    const value = flux[frame]!;
    let mean = 0;
    let largest = 0;
    const from = Math.max(0, frame - surroundings);
    const to = Math.min(flux.length, frame + surroundings + 1);
    for (let other = from; other < to; other++) {
      mean += flux[other]!;
      if (Math.abs(other - frame) <= around) largest = Math.max(largest, flux[other]!);
    }
    mean /= to - from;
    if (value < largest || value < mean + THRESHOLD_DB) continue;
    const later = level.subarray(frame + 2, frame + 2 + sustain);
    if (later.length > 0 && later.reduce((a, b) => a + b, 0) / later.length < floor) continue;
    const last = peaks.at(-1);
    if (last !== undefined) {
      if (frame - last < gap) continue;
      if (frame - last < syllable && (value < AS_STRONG * flux[last]! || isFricative(course, last, frame))) continue;
    }
    peaks.push(frame);
  }
  return peaks;
}

/** True for a fricative that begins at frame `from` and is held until `to`. */
function isFricative({ level, hisses }: Course, from: number, to: number): boolean {
  for (let frame = from + LAG; frame < to - LAG; frame++) {
    if (!hisses[frame] || level[frame]! < level[from + LAG]! - HELD_DB) return false;
  }
  return true;
}

/**
 * Finds where notes and syllables begin: spectral flux of logarithmic bands, each compared with the largest of its
 * neighbours a moment before, so that vibrato does not count (Böck and Widmer, "Maximum filter vibrato suppression for
 * onset detection", DAFx 2013), peaks of it over an adaptive threshold (Bello et al., "A tutorial on onset detection in
 * music signals", 2005), each put back to where the level begins to rise.
 * @param left, right sound at `sampleRate`
 */
export function findOnsets(left: Float32Array, right: Float32Array, sampleRate: number): Onsets {
  const course = courseOf(left, right, sampleRate);
  const hopSeconds = course.hop / sampleRate;
  return { seconds: peaksOf(course, hopSeconds).map((frame) => beginning(course.flux, frame) * hopSeconds) };
}

/** Time at which the rise to a peak is half complete, in fractional frames. */
function beginning(flux: Float64Array, peak: number): number {
  const half = flux[peak]! / 2;
  let frame = peak;
  while (frame > 0 && flux[frame - 1]! > half && peak - frame < 6) frame--;
  if (frame === 0) return 0;
  const [before, after] = [flux[frame - 1]!, flux[frame]!];
  return before > half ? frame : frame - (after - half) / Math.max(1e-9, after - before);
}
