import {
  db,
  firstDifference,
  freeKernels,
  impulse,
  kernelOf,
  largest,
  run,
  setValue,
} from '../../../../test/support/render';
import { drawn } from '../../../../test/support/sweep';
import { decayCurveOf, decaySeconds, octaveDecays } from '../../dsp/decay';
import { Noise } from '../../dsp/noise';
import { resolveSettings, resolveValues } from '../resolve';
import { effectById } from '../registry';
import type { ParameterValues } from '../spec';
import { measureRoom } from '../../dsp/decay';
import { BAND_HZ } from './impulses/bands';
import { boxRoom, eyringSeconds } from './impulses/boxRoom';
import { MATERIALS } from './impulses/materials';
import { MEASURED } from './impulses/measured';
import { SHIPPED_IMPULSES } from './impulses/shipped';
import { simulatorById, SIMULATORS } from './impulses/simulators';
import { figuresOf } from './impulses/simulator';
import { checkImpulse, editedImpulse, prepareConvolution, shippedImpulse } from './prepare';

const RATE = 48000;
const spec = effectById('convolution');
const TIMING = { tempoBpm: 84, beatsPerBar: 3 };
const edited = (values: ParameterValues, sound: Parameters<typeof editedImpulse>[3] = null) =>
  editedImpulse(resolveValues(spec, values, TIMING), resolveSettings(spec, values)!.impulse!, RATE, sound);
const noise = (length: number, seed: number, decaySamples = Infinity) => {
  const source = new Noise(seed);
  return Float32Array.from({ length }, (_, n) => source.white() * Math.exp(-n / decaySamples));
};
const power = (sound: ArrayLike<number>) => Array.from(sound).reduce((sum, x) => sum + x * x, 0);

describe('convolution', () => {
  it.each(['shoebox', 'tin-hits', 'wash-room', 'backwards-nave'])('leaves no offset: %s', (preset) => {
    const { values } = effectById('convolution').presets.find(({ id }) => id === preset)!;
    const out = run(kernelOf('convolution', { ...values, mix: 100 }), new Float32Array(6 * RATE).fill(0.1)).left;
    expect(largest(out.subarray(5 * RATE))).toBeLessThan(1e-3);
  });

  it('takes all four ways of an impulse of four channels', () => {
    const [left, right, third, fourth] = [1, 2, 3, 4].map((seed) => noise(3000, seed, 900)) as [
      Float32Array,
      Float32Array,
      Float32Array,
      Float32Array,
    ];
    const values = { mix: 100 };
    const kernel = kernelOf('convolution', values);
    const resolved = resolveValues(spec, values, TIMING);
    const settings = resolveSettings(spec, values)!;
    const sound = { left, right, more: [third, fourth] as const };
    kernel.setResource!(prepareConvolution({ sampleRate: RATE, values: resolved, settings, sound }));
    const click = impulse(6000);
    const out = run(kernel, click, new Float32Array(6000));
    const paths = edited(values, sound);
    expect(paths).toHaveLength(4);
    // A click on the left alone is heard on both sides, by the first two ways.
    for (const [side, heard] of [out.left, out.right].entries()) {
      const error = heard.slice(0, 3000).map((x, n) => x - paths[side]![n]!);
      expect(10 * Math.log10(power(error) / power(paths[side]!))).toBeLessThan(-100);
    }
  });

  it('answers a click with its impulse, from the first frame on', () => {
    const values = { impulse: 'cabin', mix: 100 };
    const { left, right } = run(kernelOf('convolution', values), impulse(RATE));
    const paths = edited(values);
    for (const [side, out] of [left, right].entries()) {
      const error = out.slice(0, paths[side]!.length).map((x, n) => x - paths[side]![n]!);
      expect(10 * Math.log10(power(error) / power(paths[side]!))).toBeLessThan(-110);
    }
    const late = run(kernelOf('convolution', { ...values, preDelay: 100 }), impulse(RATE)).left;
    const off = late.slice(4800).map((x, n) => x - left[n]!);
    expect(10 * Math.log10(power(off) / power(left))).toBeLessThan(-110);
    expect(late.subarray(0, 4800).every((x) => x === 0)).toBe(true);
  });

  it('every impulse comes at a power of 1 a side, at any edit', () => {
    const edits: ParameterValues[] = [
      {},
      { decay: 50 },
      { stretch: 200, reverse: true },
      { end: 20, fadeIn: 300, lowDecay: 30 },
    ];
    for (const values of edits) {
      const paths = edited({ impulse: 'rehearsal', ...values });
      expect(power(paths[0]!) + power(paths[1]!)).toBeCloseTo(2, 3);
    }
  });

  it('edits do what they say', () => {
    const own = noise(2 * RATE, 3, RATE / 6.9);
    const sound = { left: own, right: noise(2 * RATE, 4, RATE / 6.9) };
    const plain = edited({ fadeOut: 0 }, sound);
    const frames = plain[0]!.length;
    const scale = (path: Float32Array, at: number, to: number) => path[at]! / to;
    const backwards = edited({ reverse: true, fadeOut: 0 }, sound)[0]!;
    expect(firstDifference(backwards.slice().reverse(), plain[0]!)).toBe(-1);
    expect(edited({ end: 50, fadeOut: 0 }, sound)[0]!.length).toBe(Math.round(frames / 2));
    const cut = edited({ start: 20, fadeOut: 0 }, sound)[0]!;
    expect(scale(cut, 100, cut[500]!)).toBeCloseTo(scale(plain[0]!, 100 + 960, plain[0]![500 + 960]!), 4);
    expect(edited({ stretch: 200, fadeOut: 0 }, sound)[0]!.length).toBe(2 * frames);
    expect(edited({ fadeOut: 100 }, sound)[0]!.at(-1)).toBeCloseTo(0, 9);
    const seconds = (values: ParameterValues, octave?: number) => {
      const paths = edited({ fadeOut: 0, ...values }, sound);
      return octave ? octaveDecays(paths, [octave], RATE)[0]!.t30! : decaySeconds(decayCurveOf(paths), RATE)!;
    };
    expect(seconds({ decay: 50 }) / seconds({})).toBeCloseTo(0.5, 1);
    expect(Math.abs(seconds({ lowDecay: 50 }, 125) / seconds({}, 125) - 0.5)).toBeLessThan(0.12);
    expect(Math.abs(seconds({ lowDecay: 50 }, 2000) / seconds({}, 2000) - 1)).toBeLessThan(0.05);
    expect(Math.abs(seconds({ highDecay: 50 }, 8000) / seconds({}, 8000) - 0.5)).toBeLessThan(0.08);
  });

  it('refuses what can be no impulse, with the reason', () => {
    const refuse = (paths: Float32Array[]) => () => checkImpulse(paths, RATE);
    expect(refuse([new Float32Array(500)])).toThrow('The impulse is silent.');
    expect(refuse([Float32Array.of(1, NaN)])).toThrow('no numbers');
    expect(refuse([new Float32Array(21 * RATE).fill(0.1)])).toThrow('up to 20 s, and this sound has 21.0 s');
    expect(refuse([Float32Array.of(0.5)])).not.toThrow();
  });

  it('another impulse is taken up while sound runs without a gap, and none passes the sound as it is until then', () => {
    const values = resolveValues(spec, { mix: 100 }, TIMING);
    const prepared = (id: string) =>
      prepareConvolution({ sampleRate: RATE, values, settings: resolveSettings(spec, { impulse: id })!, sound: null });
    const kernel = kernelOf('convolution', { impulse: 'cabin', mix: 100 });
    const steady = noise(RATE, 5);
    const levels: number[] = [];
    for (let turn = 0; turn < 12; turn++) {
      if (turn === 4) kernel.setResource!(prepared('closet'));
      levels.push(10 * Math.log10(power(run(kernel, steady.slice(0, RATE / 4)).left)));
    }
    expect(Math.max(...levels.slice(1)) - Math.min(...levels.slice(1))).toBeLessThan(3);
  });

  it('moves its level, tone and width without a click', () => {
    const kernel = kernelOf('convolution', { mix: 100, impulse: 'closet' });
    const tone = Float32Array.from({ length: 9600 }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 100 * n) / RATE));
    run(kernel, tone);
    const before = run(kernel, tone).left;
    setValue(kernel, 'convolution', 'gain', -12);
    const out = run(kernel, tone).left;
    expect(db(largest(out.slice(4800)) / largest(before.slice(4800)))).toBeCloseTo(-12, 1);
  });
});

describe('simulated impulses', () => {
  it.each(SIMULATORS.map((one) => [one.id, one] as const))(
    '%s: the same for a seed, sound at its ends, and told how far',
    (_, simulator) => {
      const small: ParameterValues = simulator.id === 'box' ? { width: 2, length: 3, height: 2.2 } : {};
      const make = (seed: number, values: ParameterValues = small) =>
        simulator.simulate(figuresOf(simulator, values), seed, 44100);
      const [one, again] = [make(1), make(1)];
      expect(again).toEqual(one);
      for (const path of one) {
        expect(path.every(Number.isFinite)).toBe(true);
        expect(largest(path)).toBeGreaterThan(0);
      }
      expect(() =>
        simulator.simulate(figuresOf(simulator, small), 1, 44100, () => {
          throw new Error('given up');
        }),
      ).toThrow('given up');
      expect(() => figuresOf(simulator, { nothing: 1 })).toThrow('has no parameter "nothing"');
    },
  );

  it('a box room decays as Eyring says, by octaves, for rooms of one material', () => {
    for (const material of ['concrete', 'wood']) {
      const surfaces = { walls: material, front: material, back: material, floor: material, ceiling: material };
      const values = { width: 6, length: 8, height: 4, ...surfaces };
      const paths = boxRoom.simulate(figuresOf(boxRoom, values), 1, RATE);
      const absorption = MATERIALS.find(({ id }) => id === material)!.absorption;
      const bands = BAND_HZ.map(
        (hz) =>
          absorption[
            Math.max(
              0,
              [125, 250, 500, 1000, 2000, 4000].findIndex((one) => hz <= one),
            )
          ] ?? absorption[5],
      );
      const wall = bands.map((one, band) => (BAND_HZ[band]! > 4000 ? absorption[5] : one));
      const box = { sides: [6, 8, 4] as const, walls: Array.from({ length: 6 }, () => wall) };
      for (const [octave, band] of [
        [500, 3],
        [1000, 4],
        [2000, 5],
      ] as const) {
        // A neighbour that rings twice as long is heard at the edge of an octave.
        expect(Math.abs(octaveDecays(paths, [octave], RATE)[0]!.t30! / eyringSeconds(box, band) - 1)).toBeLessThan(
          0.22,
        );
      }
    }
  });

  it('a stopped pipe rings at odd multiples of a quarter of its length, an open one at all of a half', () => {
    const pipe = SIMULATORS.find(({ id }) => id === 'pipe')!;
    const peak = (values: ParameterValues, hz: number) => {
      const [left] = pipe.simulate(figuresOf(pipe, { length: 1, radius: 0.02, ...values }), 1, RATE);
      const at = (f: number) => {
        let [re, im] = [0, 0];
        left!.forEach((x, n) => {
          re += x * Math.cos((2 * Math.PI * f * n) / RATE);
          im += x * Math.sin((2 * Math.PI * f * n) / RATE);
        });
        return Math.hypot(re, im);
      };
      return Math.max(at(hz * 0.97), at(hz * 0.99), at(hz)) / Math.max(at(hz * 0.75), 1e-9);
    };
    expect(peak({ end: 'closed' }, 343 / 4)).toBeGreaterThan(3);
    expect(peak({ end: 'closed' }, (3 * 343) / 4)).toBeGreaterThan(3);
    expect(peak({ end: 'open' }, 343 / 2)).toBeGreaterThan(3);
  });

  it('there are at least 24 that ship, each with a name and a line on what it is', () => {
    expect(SHIPPED_IMPULSES.length).toBeGreaterThanOrEqual(24);
    expect(new Set(SHIPPED_IMPULSES.map(({ id }) => id)).size).toBe(SHIPPED_IMPULSES.length);
    for (const { name, about, simulator, values } of SHIPPED_IMPULSES) {
      expect([name.length > 3, about.length > 15]).toEqual([true, true]);
      figuresOf(simulatorById(simulator)!, values);
    }
    expect(Object.keys(MEASURED)).toEqual(SHIPPED_IMPULSES.map(({ id }) => id));
    const rooms = ['cabin', 'parlour', 'plate-small', 'spring-tight', 'pipe-organ', 'speaker-radio', 'courtyard'];
    for (const id of drawn('measured impulses', rooms)) {
      const { t30, c80 } = measureRoom(shippedImpulse(id, RATE), RATE);
      expect(MEASURED[id]!.t30! / t30!).toBeCloseTo(1, 2);
      expect(MEASURED[id]!.c80).toBeCloseTo(c80, 1);
    }
    expect(shippedImpulse('cabin', 44100) === shippedImpulse('cabin', 44100)).toBe(true);
    freeKernels();
  });
});
