import { PLAIN_TIMING } from '../effects/noteValues';
import { integratedLoudness } from '../analysis/loudness';
import { FourierTransform } from '../dsp/fft';
import { impulseSpectra } from '../dsp/impulseSpectra';
import { Noise } from '../dsp/noise';
import type { Prepared } from '../effects/prepare';
import { effectById } from '../effects/registry';
import { resolveSettings, resolveValues } from '../effects/resolve';
import { resourceFor } from '../effects/resource';
import type { PlanInsert, Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderPlan } from '../engine/render';
import { dbToGain } from '../math/elementary';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import { smoothstep } from '../math/smoothstep';
import { listeningPlace, type ListeningPlace } from './catalogue';
import { leadFrames } from './monitor';

/** The sound by which places are evened out beforehand: pink, its sides so far under its middle. */
const REFERENCE_SECONDS = 3;
const SIDE = 0.35;
const FADE_PART = 0.2;
function insertsOf({ id, chain }: ListeningPlace, sampleRate: number): PlanInsert[] {
  return chain.map(([effect, given], n): PlanInsert => {
    const spec = effectById(effect);
    const values = resolveValues(spec, given, PLAIN_TIMING);
    const settings = resolveSettings(spec, given);
    const resource = resourceFor(spec, sampleRate, values, settings);
    return {
      ...{ id: `${id} ${n}`, effect, bypass: false, values },
      ...(settings ? { settings } : {}),
      ...(resource ? { resource } : {}),
    };
  });
}

function through(inserts: readonly PlanInsert[], sampleRate: number, sound: Samples, tailSeconds: number): Samples {
  const { plan, samples } = chainPlan(inserts, sampleRate, sound);
  return renderPlan(plan, samples, { fromFrame: 0, toFrame: sound.left.length, tailSeconds })!;
}

function reference(sampleRate: number): Samples {
  const [middle, side] = [new Noise(31), new Noise(57)];
  const left = new Float32Array(REFERENCE_SECONDS * sampleRate);
  const right = new Float32Array(left.length);
  for (let n = 0; n < left.length; n++) {
    const [m, s] = [0.2 * middle.pink(), 0.2 * SIDE * side.pink()];
    left[n] = m + s;
    right[n] = m - s;
  }
  return { left, right };
}

/**
 * The impulse response of a listening place, left to left, left to right, right to left and right to right, behind
 * `leadFrames`, at the level at which it is as loud as what goes in; of the plain one there is none.
 */
export function listeningImpulse(place: ListeningPlace, sampleRate: number): Float32Array[] {
  if (place.chain.length === 0) throw new Error('The plain place has no impulse response');
  const inserts = insertsOf(place, sampleRate);
  const lead = leadFrames(sampleRate);
  const frames = Math.ceil(place.seconds * sampleRate) + lead;
  const click = new Float32Array(frames);
  click[lead] = 1;
  const silence = new Float32Array(frames);
  const fromLeft = through(inserts, sampleRate, { left: click, right: silence }, 0);
  const fromRight = through(inserts, sampleRate, { left: silence, right: click }, 0);
  const sound = reference(sampleRate);
  const loudness = ({ left, right }: Samples) => integratedLoudness([left, right], sampleRate);
  const gain = dbToGain(loudness(sound) - loudness(through(inserts, sampleRate, sound, 0)));
  const fade = Math.floor(FADE_PART * frames);
  return [fromLeft.left, fromLeft.right, fromRight.left, fromRight.right].map((path) =>
    path.map((x, n) => gain * x * smoothstep(Math.min(1, (frames - n) / fade))),
  );
}

const RESPONSE_POINTS = 120;
/** Each point is the power around it, by this ratio to either side: a sixth of an octave. */
const AROUND = 2 ** (1 / 12);

/** Response of a listening place for mid and side: dB over frequency. */
export interface ListeningResponse {
  readonly hz: Float64Array;
  readonly middle: Float64Array;
  readonly sides: Float64Array;
}

/** A listening place as the monitor takes it, null for the plain one; and what it does to a sound. */
export function workOutListening(
  id: string,
  sampleRate: number,
): { readonly prepared: Prepared | null; readonly response: ListeningResponse } {
  const place = listeningPlace(id);
  const paths = place.chain.length === 0 ? null : listeningImpulse(place, sampleRate);
  return { prepared: paths && impulseSpectra(paths), response: responseOf(paths, sampleRate) };
}

/** Responses in bands of a third of an octave, each from both sides together; even ones without an impulse. */
function responseOf(paths: readonly Float32Array[] | null, sampleRate: number): ListeningResponse {
  const hz = Float64Array.from({ length: RESPONSE_POINTS }, (_, n) => 20 * 1000 ** (n / (RESPONSE_POINTS - 1)));
  if (!paths) return { hz, middle: new Float64Array(hz.length), sides: new Float64Array(hz.length) };
  const [ll, lr, rl, rr] = paths as [Float32Array, Float32Array, Float32Array, Float32Array];
  const spectrumOf = (left: (n: number) => number, right: (n: number) => number) => {
    const transform = new FourierTransform(powerOfTwoFrom(ll.length));
    const re = new Float64Array(transform.size);
    const im = new Float64Array(transform.size);
    for (let n = 0; n < ll.length; n++) {
      re[n] = left(n);
      im[n] = right(n);
    }
    transform.forward(re, im);
    const powers = Float64Array.from(re, (x, n) => (x * x + im[n]! * im[n]!) / 2);
    const binHz = sampleRate / transform.size;
    const { size } = transform;
    return Float64Array.from(hz, (centre) => {
      const first = Math.max(1, Math.floor(centre / AROUND / binHz));
      const last = Math.min(size / 2, Math.max(first, Math.ceil((centre * AROUND) / binHz)));
      let sum = 0;
      // Both halves of the spectrum of a complex signal: real part and imaginary part share them.
      for (let bin = first; bin <= last; bin++) sum += (powers[bin]! + powers[size - bin]!) / 2;
      return 10 * Math.log10(sum / (last - first + 1) + 1e-12);
    });
  };
  return {
    hz,
    middle: spectrumOf(
      (n) => ll[n]! + rl[n]!,
      (n) => lr[n]! + rr[n]!,
    ),
    sides: spectrumOf(
      (n) => ll[n]! - rl[n]!,
      (n) => lr[n]! - rr[n]!,
    ),
  };
}
