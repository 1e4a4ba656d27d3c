import { decayCurveOf, decaySeconds } from '../../dsp/decay';
import { impulseSpectra } from '../../dsp/impulseSpectra';
import { resample } from '../../dsp/resampler';
import { KinetikonError } from '../../errors';
import { keepNewest } from '../../math/keepNewest';
import { exp } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import { parameterIndices } from '../parameterIndices';
import type { Preparer } from '../prepare';
import { BAND_HZ, sumOfBands } from './impulses/bands';
import { SHIPPED_IMPULSES } from './impulses/shipped';
import { simulatorById } from './impulses/simulators';
import { figuresOf, highPassed, LONGEST_SECONDS, type Paths } from './impulses/simulator';
import { convolutionSpec, EDITS, MOVES } from './spec';

const P = parameterIndices(convolutionSpec, EDITS, MOVES);

const LN_1000 = 6.907755278982137;
/** Octaves that count as lows and as highs. */
const LOW_HZ = 250;
const HIGH_HZ = 3000;
/** A decay that is drawn out may rise by no more than this, so that what is noise at its end stays small. */
const MOST_RISE = 1000;
/** Peaks under this are the dither of a silent file. */
const SILENCE = 1e-4;
/** The last simulation: moving a ruler edits the same impulse again and again. */
const MOST_KEPT = 4;
const kept = new Map<string, Simulated>();

interface Simulated {
  /** As it was worked out, to be edited. */
  readonly raw: Paths;
  /** As it is heard unedited. */
  readonly heard: Paths;
}

/** An impulse that ships, at a sample rate. */
export const shippedImpulse = (id: string, sampleRate: number): Paths => simulated(id, sampleRate).heard;

function simulated(id: string, sampleRate: number): Simulated {
  const key = `${id} ${sampleRate}`;
  const known = kept.get(key);
  if (known) return known;
  const { simulator: simulatorId, values, seed } = SHIPPED_IMPULSES.find((one) => one.id === id)!;
  const simulator = simulatorById(simulatorId)!;
  const raw = simulator.simulate(figuresOf(simulator, values), seed, sampleRate);
  const made = { raw, heard: highPassed(raw, sampleRate) };
  kept.set(key, made);
  keepNewest(kept, MOST_KEPT);
  return made;
}

/**
 * Refuses a sound that cannot be an impulse.
 * @throws KinetikonError impulse.bad: silent, too long, or not all numbers
 */
export function checkImpulse(paths: Paths, sampleRate: number): void {
  const refused = (what: string, next: string) => {
    throw new KinetikonError('impulse.bad', what, { kept: 'Nothing was changed.', next });
  };
  const seconds = paths[0]!.length / sampleRate;
  if (seconds > LONGEST_SECONDS) {
    refused(
      `An impulse takes up to ${LONGEST_SECONDS} s, and this sound has ${seconds.toFixed(1)} s.`,
      'Cut it to its decay first.',
    );
  }
  let peak = 0;
  for (const path of paths) {
    for (let n = 0; n < path.length; n++) {
      if (!Number.isFinite(path[n]!)) refused('The impulse holds samples that are no numbers.', 'Choose another one.');
      peak = Math.max(peak, Math.abs(path[n]!));
    }
  }
  if (peak < SILENCE) refused('The impulse is silent.', 'Choose another one.');
}

/** The impulse as it is edited, at a power of 1 for each side. */
export const prepareConvolution: Preparer = ({ sampleRate, values, settings, sound }) =>
  impulseSpectra(editedImpulse(values, settings.impulse!, sampleRate, sound));

/** @throws KinetikonError impulse.bad */
export function editedImpulse(
  values: readonly number[],
  impulse: Parameters<Preparer>[0]['settings'][string],
  sampleRate: number,
  sound: Parameters<Preparer>[0]['sound'],
): Paths {
  const id = impulse.kind === 'sound' ? impulse.id : '';
  const source = sound ? [sound.left, sound.right, ...(sound.more ?? [])] : simulated(id, sampleRate).raw;
  checkImpulse(source, sampleRate);
  const value = (id: (typeof EDITS)[number]) => values[P[id]]!;
  const frames = source[0]!.length;
  const start = Math.min(frames - 1, Math.round((value('start') / 1000) * sampleRate));
  const end = Math.max(start + 1, Math.round((value('end') / 100) * frames));
  let paths: Float32Array[] = source.map((path) => path.slice(start, end));
  if (value('stretch') !== 100) {
    const rate = Math.round((sampleRate * value('stretch')) / 100);
    const longest = LONGEST_SECONDS * sampleRate;
    paths = paths.map((path) => {
      const most = Math.floor((longest * sampleRate) / rate);
      return resample(path.length > most ? path.slice(0, most) : path, sampleRate, rate)!;
    });
  }
  const decays = [value('lowDecay'), value('highDecay')].map((part) => (part * value('decay')) / 10000);
  paths = reshaped(paths, value('decay') / 100, decays[0]!, decays[1]!, sampleRate);
  if (value('reverse') === 1) for (const path of paths) path.reverse();
  for (const path of paths) fade(path, (value('fadeIn') / 1000) * sampleRate, (value('fadeOut') / 1000) * sampleRate);
  // Offsets come back where an impulse is cut or drawn out; those of sounds brought in are their own.
  return level(sound ? paths : highPassed(paths, sampleRate));
}

/** Lets lows, middle and highs decay in other times, each as a part of what it was. */
function reshaped(
  paths: Float32Array[],
  middle: number,
  low: number,
  high: number,
  sampleRate: number,
): Float32Array[] {
  if (middle === 1 && low === 1 && high === 1) return paths;
  const seconds = decaySeconds(decayCurveOf(paths), sampleRate);
  if (seconds === null) return paths;
  const frames = paths[0]!.length;
  const left = new Float64Array(frames);
  const right = new Float64Array(frames);
  const bandsWhere = (belongs: (hz: number) => boolean) => BAND_HZ.flatMap((hz, band) => (belongs(hz) ? [band] : []));
  const groups = [
    { part: low, bands: bandsWhere((hz) => hz <= LOW_HZ) },
    { part: middle, bands: bandsWhere((hz) => hz > LOW_HZ && hz <= HIGH_HZ) },
    { part: high, bands: bandsWhere((hz) => hz > HIGH_HZ) },
  ];
  const out: Float32Array[] = [];
  for (let pair = 0; pair < paths.length; pair += 2) {
    const own = paths.slice(pair, pair + 2);
    const both = sumOfBands(frames, sampleRate, (add) => {
      for (const { part, bands } of groups) {
        const slope = (-LN_1000 * (1 / part - 1)) / seconds / sampleRate;
        for (let n = 0; n < frames; n++) {
          const gain = Math.min(MOST_RISE, exp(slope * n));
          left[n] = own[0]![n]! * gain;
          right[n] = (own[1] ?? own[0]!)[n]! * gain;
        }
        add(bands, left, right);
      }
    });
    out.push(...both.slice(0, own.length));
  }
  return out;
}

function fade(path: Float32Array, fadeIn: number, fadeOut: number): void {
  const first = Math.min(path.length, Math.round(fadeIn));
  for (let n = 0; n < first; n++) path[n] = path[n]! * smoothstep(n / first);
  const last = Math.min(path.length, Math.round(fadeOut));
  for (let n = 0; n < last; n++) {
    const at = path.length - 1 - n;
    path[at] = path[at]! * smoothstep(n / last);
  }
}

/** All paths by one factor, so that a sound on both sides comes out as loud as it went in. */
function level(paths: Float32Array[]): Float32Array[] {
  let power = 0;
  for (const path of paths) for (let n = 0; n < path.length; n++) power += path[n]! * path[n]!;
  const sides = Math.min(2, paths.length);
  if (power === 0) return paths;
  const gain = Math.sqrt(sides / power);
  return paths.map((path) => path.map((x) => gain * x));
}
