import { FourierTransform } from '../dsp/fft';
import { MAXIMUM_BLOCK, type Kernel } from '../effects/kernel';
import { withKernel } from '../effects/kernels';
import { meterSlots, meterSlotCount } from '../effects/meters';
import { effectById } from '../effects/registry';
import type { EffectSpec, PictureKind } from '../effects/spec';
import type { PlanInsert, Samples } from '../engine/plan';
import type { Arena } from '../wasm/arena';
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
const LEVEL_STEP_DB = 1;
const LOWEST_DB = -60;
/** Stairs of a tone that rises and falls: their height, how long each lasts, and how much of its end is measured. */
const STAIR_DB = 0.25;
const LOWEST_STAIR_DB = -80;
const STAIR_SECONDS = 0.016;
const STAIR_END_SECONDS = 0.003;
const SHAPE_POINTS = 201;
const MOTION_POINTS = 400;
const BURST_POINTS = 300;
const FLOOR = 1e-6;
/** Places of a sweep at which its response is taken. */
export const COMB_PLACES = 48;
const COMB_FRAMES = 8192;
const COMB_POINTS = 320;
/** Length of the transform of a comb, which interpolates its spectrum, and looks taken between two points. */
const COMB_BINS = 16384;
const COMB_LOOKS = 8;
const DELAY_POINTS = 480;
/** A delay that changes faster than this is a jump, not a bend. */
const FASTEST_BEND = 0.5;

const inDb = (x: number) => 20 * Math.log10(Math.max(FLOOR, x));

/** The largest magnitude from a frame up to another. */
function peakBetween(sound: Float32Array, from: number, to: number): number {
  let peak = 0;
  for (let n = from; n < to; n++) peak = Math.max(peak, Math.abs(sound[n]!));
  return peak;
}

/** A chain, and the sounds that its effects work with, by id. */
interface Chain {
  readonly inserts: readonly PlanInsert[];
  readonly sampleRate: number;
  readonly sounds: ReadonlyMap<string, Samples>;
}

/** A sound through a chain, in the engine itself, starting where it starts. */
function through({ inserts, sampleRate, sounds }: Chain, sound: Samples): Samples {
  const { plan, samples } = chainPlan(inserts, sampleRate, sound, sounds);
  return renderPlan(plan, samples, { fromFrame: 0, toFrame: sound.left.length, tailSeconds: 0 })!;
}

const mono = (sound: Float32Array): Samples => ({ left: sound, right: sound });

/**
 * Draws the behaviour of a chain from its response to test sounds.
 * - response: dB over Hz, of a sound on both sides, and of one that differs between them where that is another
 * - levels: output over input level in dB, of a tone of 1 kHz
 * - hysteresis: the same while the tone rises, and while it falls, with times as short as they can be
 * - shape: output over input sample, of a slow sine
 * - motion: gain of either side over the seconds of `span`
 * - burst: level in dB over seconds, of a burst that dies away, after and before
 * - comb: dB over Hz at COMB_PLACES places of a sweep of `span` seconds, left and right by turns; of the last effect
 * - delays: delay in ms over the seconds of `span`, and the bend of pitch it makes in cents; of the last effect
 * @param span seconds to be shown
 * @param sounds those that its effects work with, by id
 */
export function computePicture(
  kind: Picture['kind'],
  inserts: readonly PlanInsert[],
  sampleRate: number,
  span: number,
  sounds: ReadonlyMap<string, Samples> = new Map(),
): Picture {
  const chain = { inserts, sampleRate, sounds };
  switch (kind) {
    case 'response':
      return response(chain);
    case 'levels':
      return levels(chain);
    case 'hysteresis':
      return hysteresis(chain);
    case 'shape':
      return shape(chain);
    case 'motion':
      return motion(chain, span);
    case 'burst':
      return burst(chain);
    case 'comb':
      return comb(inserts.at(-1)!, sampleRate, span);
    case 'delays':
      return delays(inserts.at(-1)!, sampleRate, span);
  }
}

/** Frequencies evenly spaced by ratio, as far as the sample rate reaches. */
function frequencies(points: number, sampleRate: number): Float64Array {
  const top = Math.min(20000, sampleRate * 0.45);
  return Float64Array.from({ length: points }, (_, i) => LOWEST_HZ * (top / LOWEST_HZ) ** (i / (points - 1)));
}

function response(chain: Chain): Picture {
  const { sampleRate } = chain;
  const x = frequencies(RESPONSE_POINTS, sampleRate);
  // A soft click, so that effects that lower what is loud show what they do to what is not.
  const level = 1e-3;
  const click = new Float32Array(RESPONSE_FRAMES);
  click[0] = level;
  const both = through(chain, mono(click));
  const against = through(chain, { left: click, right: click.map((one) => -one) });
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

function levels(chain: Chain): Picture {
  const { sampleRate } = chain;
  const x: number[] = [];
  const y: number[] = [];
  const frames = Math.round(0.5 * sampleRate);
  for (let db = LOWEST_DB; db <= 0; db += LEVEL_STEP_DB) {
    const amplitude = 10 ** (db / 20);
    const tone = Float32Array.from(
      { length: frames },
      (_, n) => amplitude * Math.sin((2 * Math.PI * 1000 * n) / sampleRate),
    );
    const out = through(chain, mono(tone)).left;
    x.push(db);
    y.push(inDb(peakBetween(out, Math.round(0.8 * frames), frames)));
  }
  return { kind: 'levels', x: Float64Array.from(x), lines: [{ name: 'output', y: Float64Array.from(y) }] };
}

/** Times of an effect that its static curve does not depend on. */
const TIMES: ReadonlySet<string> = new Set(['attack', 'hold', 'release']);

/** An effect whose gain is settled at once, so that it shows its levels alone. */
function withoutTimes(insert: PlanInsert): PlanInsert {
  const { parameters } = effectById(insert.effect);
  const values = parameters.map((parameter, n) =>
    parameter.kind === 'number' && TIMES.has(parameter.id) ? parameter.min : insert.values[n]!,
  );
  return { ...insert, values };
}

function hysteresis({ inserts, sampleRate, sounds }: Chain): Picture {
  const count = Math.round(-LOWEST_STAIR_DB / STAIR_DB) + 1;
  const x = Float64Array.from({ length: count }, (_, n) => LOWEST_STAIR_DB + n * STAIR_DB);
  const stair = Math.round(STAIR_SECONDS * sampleRate);
  const amplitudes = Array.from(x, (db) => 10 ** (db / 20));
  const stairs = [...amplitudes, ...amplitudes.toReversed()];
  const tone = Float32Array.from(
    { length: stairs.length * stair },
    (_, n) => stairs[Math.floor(n / stair)]! * Math.sin((2 * Math.PI * 1000 * n) / sampleRate),
  );
  const out = through({ inserts: inserts.map(withoutTimes), sampleRate, sounds }, mono(tone)).left;
  const measured = Math.round(STAIR_END_SECONDS * sampleRate);
  const levels = stairs.map((_, n) => inDb(peakBetween(out, (n + 1) * stair - measured, (n + 1) * stair)));
  return {
    kind: 'hysteresis',
    x,
    lines: [
      { name: 'rising', y: Float64Array.from(levels.slice(0, count)) },
      { name: 'falling', y: Float64Array.from(levels.slice(count).toReversed()) },
    ],
  };
}

function shape(chain: Chain): Picture {
  const { sampleRate } = chain;
  const hz = 150;
  const frames = Math.round(0.1 * sampleRate);
  const sine = Float32Array.from({ length: frames }, (_, n) => Math.sin((2 * Math.PI * hz * n) / sampleRate));
  const out = through(chain, mono(sine)).left;
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

function motion(chain: Chain, span: number): Picture {
  const { sampleRate } = chain;
  const frames = Math.max(MOTION_POINTS, Math.round(span * sampleRate));
  const out = through(chain, mono(new Float32Array(frames).fill(0.5)));
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

function burst(chain: Chain): Picture {
  const { sampleRate } = chain;
  const frames = Math.round(0.6 * sampleRate);
  const begin = Math.round(0.05 * sampleRate);
  const sound = Float32Array.from({ length: frames }, (_, n) =>
    n < begin
      ? 0
      : 0.5 * Math.sin((2 * Math.PI * 400 * n) / sampleRate) * 10 ** ((-2 * (n - begin)) / (0.5 * sampleRate)),
  );
  const out = through(chain, mono(sound)).left;
  const slot = frames / BURST_POINTS;
  const course = (name: string, one: Float32Array) => ({
    name,
    y: Float64Array.from({ length: BURST_POINTS }, (_, i) =>
      inDb(peakBetween(one, Math.floor(i * slot), Math.min(frames, Math.floor((i + 2) * slot)))),
    ),
  });
  return {
    kind: 'burst',
    x: Float64Array.from({ length: BURST_POINTS }, (_, i) => (i * slot) / sampleRate),
    lines: [course('after', out), course('before', sound)],
  };
}

/** Impulse responses of an effect at several phases of its sweep, which hardly moves meanwhile. */
function comb(insert: PlanInsert, sampleRate: number, span: number): Picture {
  const x = frequencies(COMB_POINTS, sampleRate);
  const transform = new FourierTransform(COMB_BINS);
  const step = (x[1]! / x[0]!) ** (1 / COMB_LOOKS);
  const lines = Array.from({ length: COMB_PLACES }, (_, place) => {
    const left = new Float32Array(COMB_FRAMES);
    const right = new Float32Array(COMB_FRAMES);
    const latencyFrames = withKernel(insert, sampleRate, (kernel, memory) => {
      const [blockLeft, blockRight] = [memory.floats(MAXIMUM_BLOCK), memory.floats(MAXIMUM_BLOCK)];
      blockLeft[0] = blockRight[0] = 0.1;
      kernel.locate(Math.round((place / COMB_PLACES) * span * sampleRate));
      for (let at = 0; at < COMB_FRAMES; at += MAXIMUM_BLOCK) {
        kernel.process(blockLeft, blockRight, MAXIMUM_BLOCK);
        left.set(blockLeft, at);
        right.set(blockRight, at);
        blockLeft.fill(0);
        blockRight.fill(0);
      }
      return kernel.latencyFrames;
    });
    const side = (name: string, sound: Float32Array) => {
      const re = new Float64Array(COMB_BINS);
      const im = new Float64Array(COMB_BINS);
      // The latency is cut off, so that the phase turns little from bin to bin.
      re.set(sound.subarray(latencyFrames));
      transform.forward(re, im);
      const at = (hz: number) => {
        const place = (hz * COMB_BINS) / sampleRate;
        const bin = Math.floor(place);
        const part = place - bin;
        return (
          Math.hypot(re[bin]! + part * (re[bin + 1]! - re[bin]!), im[bin]! + part * (im[bin + 1]! - im[bin]!)) / 0.1
        );
      };
      return { name, y: x.map((hz) => inDb(withNotch(at, hz, step))) };
    };
    return [side('left', left), side('right', right)];
  });
  return { kind: 'comb', x, lines: lines.flat() };
}

/** The magnitude at a frequency, or the bottom of a notch that lies nearer to it than to the points beside. */
function withNotch(at: (hz: number) => number, hz: number, step: number): number {
  // One look further on both sides, so that none falls between two points.
  const middle = COMB_LOOKS / 2 + 1;
  const placeOf = (look: number) => hz * step ** (look - middle);
  const looks = Array.from({ length: 2 * middle + 1 }, (_, look) => at(placeOf(look)));
  const lowest = looks.indexOf(Math.min(...looks));
  if (lowest === 0 || lowest === 2 * middle) return looks[middle]!;
  let [from, to] = [placeOf(lowest - 1), placeOf(lowest + 1)];
  for (let narrowing = 0; narrowing < 12; narrowing++) {
    const third = (to - from) / 3;
    if (at(from + third) < at(to - third)) to -= third;
    else from += third;
  }
  const notch = (from + to) / 2;
  // The nearer of two points shows it.
  const near = notch >= placeOf(1) && notch < placeOf(2 * middle - 1);
  return near ? at(notch) : looks[middle]!;
}

/** Delays that a kernel reports, at times after its start. */
function delaysOver(
  spec: EffectSpec,
  kernel: Kernel,
  memory: Arena,
  sampleRate: number,
  span: number,
): { seconds: number; delays: number[] }[] {
  kernel.locate(0);
  const told = new Float64Array(meterSlotCount(spec));
  const { at, count } = meterSlots(spec, 'delays')!;
  const silence = [memory.floats(MAXIMUM_BLOCK), memory.floats(MAXIMUM_BLOCK)] as const;
  let frame = 0;
  return Array.from({ length: DELAY_POINTS }, (_, point) => {
    const until = Math.round((point / (DELAY_POINTS - 1)) * span * sampleRate);
    while (frame < until) {
      const frames = Math.min(MAXIMUM_BLOCK, until - frame);
      kernel.process(silence[0], silence[1], frames);
      for (const block of silence) block.fill(0);
      frame += frames;
    }
    kernel.readMeters!(told);
    return { seconds: frame / sampleRate, delays: [...told.slice(at, at + count)] };
  });
}

/** Delays of an effect, and the change of pitch that they cause. */
function delays(insert: PlanInsert, sampleRate: number, span: number): Picture {
  const rows = withKernel(insert, sampleRate, (kernel, memory) =>
    delaysOver(effectById(insert.effect), kernel, memory, sampleRate, span),
  );
  const x = Float64Array.from(rows, ({ seconds }) => seconds);
  const used = rows[0]!.delays.flatMap((delay, n) => (Number.isNaN(delay) ? [] : [n]));
  const name = (n: number) => `${Math.floor(n / 2) + 1} ${n % 2 === 0 ? 'left' : 'right'}`;
  const courses = used.map((n) => ({
    name: name(n),
    y: Float64Array.from(rows, (row) => row.delays[n]! * 1000),
  }));
  const bends = courses.map(({ name: course, y }) => ({
    name: `bend of ${course}`,
    y: y.map((_, i) => {
      const before = Math.max(0, i - 1);
      const after = Math.min(y.length - 1, i + 1);
      const slope = (y[after]! - y[before]!) / 1000 / (x[after]! - x[before]!);
      return Math.abs(slope) > FASTEST_BEND ? 0 : 1200 * Math.log2(1 - slope);
    }),
  }));
  return { kind: 'delays', x, lines: [...courses, ...bends] };
}
