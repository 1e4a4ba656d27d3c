import type { PictureKind } from '../effects/spec';
import type { PlanInsert, Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderPlan } from '../engine/render';

/** Curves over one axis, each as what the engine made of a test sound. */
export interface Picture {
  readonly kind: Exclude<PictureKind, 'echogram'>;
  readonly x: Float64Array;
  readonly lines: readonly { readonly name: string; readonly y: Float64Array }[];
}

const RESPONSE_POINTS = 240;
const LOWEST_HZ = 20;
const RESPONSE_FRAMES = 16384;
const LEVEL_STEP_DB = 2;
const LOWEST_DB = -60;
const SHAPE_POINTS = 201;
const MOTION_POINTS = 400;
const BURST_POINTS = 300;
const FLOOR = 1e-6;

const inDb = (x: number) => 20 * Math.log10(Math.max(FLOOR, x));

/** A sound through a chain, in the engine itself, starting where it starts. */
function through(inserts: readonly PlanInsert[], sampleRate: number, sound: Samples): Samples {
  const { plan, samples } = chainPlan(inserts, sampleRate, sound);
  return renderPlan(plan, samples, { fromFrame: 0, toFrame: sound.left.length, tailSeconds: 0 })!;
}

const mono = (sound: Float32Array): Samples => ({ left: sound, right: sound });

/**
 * What a chain does, drawn from what it makes of test sounds.
 * - response: dB over Hz, of a sound on both sides, and of one that differs between them where that is another
 * - levels: output over input level in dB, of a tone of 1 kHz
 * - shape: output over input sample, of a slow sine
 * - motion: gain of either side over the seconds of `span`
 * - burst: level in dB over seconds, of a burst that dies away, before and after
 * @param span seconds to be shown
 */
export function computePicture(
  kind: Picture['kind'],
  inserts: readonly PlanInsert[],
  sampleRate: number,
  span: number,
): Picture {
  switch (kind) {
    case 'response':
      return response(inserts, sampleRate);
    case 'levels':
      return levels(inserts, sampleRate);
    case 'shape':
      return shape(inserts, sampleRate);
    case 'motion':
      return motion(inserts, sampleRate, span);
    case 'burst':
      return burst(inserts, sampleRate);
  }
}

function response(inserts: readonly PlanInsert[], sampleRate: number): Picture {
  const top = Math.min(20000, sampleRate * 0.45);
  const x = Float64Array.from(
    { length: RESPONSE_POINTS },
    (_, i) => LOWEST_HZ * (top / LOWEST_HZ) ** (i / (RESPONSE_POINTS - 1)),
  );
  // A soft click, so that effects that lower what is loud show what they do to what is not.
  const level = 1e-3;
  const click = new Float32Array(RESPONSE_FRAMES);
  click[0] = level;
  const both = through(inserts, sampleRate, mono(click));
  const against = through(inserts, sampleRate, { left: click, right: click.map((one) => -one) });
  const alike = spectrum(both.left, x, sampleRate, level);
  const apart = spectrum(against.left, x, sampleRate, level);
  const differ = alike.some((one, i) => Math.abs(one - apart[i]!) > 0.05);
  const lines = [{ name: differ ? 'middle' : 'both sides', y: alike }];
  if (differ) lines.push({ name: 'sides', y: apart });
  return { kind: 'response', x, lines };
}

/** Magnitudes in dB at given frequencies, by a Fourier sum at each (Goertzel's recurrence). */
function spectrum(sound: Float32Array, x: Float64Array, sampleRate: number, level: number): Float64Array {
  return x.map((hz) => {
    const w = (2 * Math.PI * hz) / sampleRate;
    const turn = 2 * Math.cos(w);
    let s1 = 0;
    let s2 = 0;
    for (let n = sound.length - 1; n >= 0; n--) {
      const s0 = sound[n]! + turn * s1 - s2;
      s2 = s1;
      s1 = s0;
    }
    return inDb(Math.sqrt(Math.max(0, s1 * s1 + s2 * s2 - turn * s1 * s2)) / level);
  });
}

function levels(inserts: readonly PlanInsert[], sampleRate: number): Picture {
  const x: number[] = [];
  const y: number[] = [];
  const frames = Math.round(0.5 * sampleRate);
  for (let db = LOWEST_DB; db <= 0; db += LEVEL_STEP_DB) {
    const amplitude = 10 ** (db / 20);
    const tone = Float32Array.from(
      { length: frames },
      (_, n) => amplitude * Math.sin((2 * Math.PI * 1000 * n) / sampleRate),
    );
    const out = through(inserts, sampleRate, mono(tone)).left;
    let peak = 0;
    for (let n = Math.round(0.8 * frames); n < frames; n++) peak = Math.max(peak, Math.abs(out[n]!));
    x.push(db);
    y.push(inDb(peak));
  }
  return { kind: 'levels', x: Float64Array.from(x), lines: [{ name: 'output', y: Float64Array.from(y) }] };
}

function shape(inserts: readonly PlanInsert[], sampleRate: number): Picture {
  const hz = 150;
  const frames = Math.round(0.1 * sampleRate);
  const sine = Float32Array.from({ length: frames }, (_, n) => Math.sin((2 * Math.PI * hz * n) / sampleRate));
  const out = through(inserts, sampleRate, mono(sine)).left;
  // The rising half of one settled period meets every input once.
  const period = sampleRate / hz;
  const start = Math.round(9.75 * period);
  const x: number[] = [];
  const y: number[] = [];
  for (let i = 0; i < SHAPE_POINTS; i++) {
    const n = Math.min(frames - 1, Math.round(start + (i / (SHAPE_POINTS - 1)) * (period / 2)));
    x.push(sine[n]!);
    y.push(out[n]!);
  }
  return { kind: 'shape', x: Float64Array.from(x), lines: [{ name: 'output', y: Float64Array.from(y) }] };
}

function motion(inserts: readonly PlanInsert[], sampleRate: number, span: number): Picture {
  const frames = Math.max(MOTION_POINTS, Math.round(span * sampleRate));
  const out = through(inserts, sampleRate, mono(new Float32Array(frames).fill(0.5)));
  const places = Array.from({ length: MOTION_POINTS }, (_, i) => Math.floor((i / MOTION_POINTS) * frames));
  const side = (name: string, sound: Float32Array) => ({
    name,
    y: Float64Array.from(places, (n) => sound[n]! / 0.5),
  });
  return {
    kind: 'motion',
    x: Float64Array.from(places, (n) => n / sampleRate),
    lines: [side('left', out.left), side('right', out.right)],
  };
}

function burst(inserts: readonly PlanInsert[], sampleRate: number): Picture {
  const frames = Math.round(0.6 * sampleRate);
  const begin = Math.round(0.05 * sampleRate);
  const sound = Float32Array.from({ length: frames }, (_, n) =>
    n < begin
      ? 0
      : 0.5 * Math.sin((2 * Math.PI * 400 * n) / sampleRate) * 10 ** ((-2 * (n - begin)) / (0.5 * sampleRate)),
  );
  const out = through(inserts, sampleRate, mono(sound)).left;
  const slot = frames / BURST_POINTS;
  const course = (name: string, one: Float32Array) => ({
    name,
    y: Float64Array.from({ length: BURST_POINTS }, (_, i) => {
      let peak = 0;
      for (let n = Math.floor(i * slot); n < Math.floor((i + 2) * slot) && n < frames; n++) {
        peak = Math.max(peak, Math.abs(one[n]!));
      }
      return inDb(peak);
    }),
  });
  return {
    kind: 'burst',
    x: Float64Array.from({ length: BURST_POINTS }, (_, i) => (i * slot) / sampleRate),
    lines: [course('before', sound), course('after', out)],
  };
}
