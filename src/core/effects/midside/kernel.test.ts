import { thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import { db, kernelOf, largest, RATES, run, setValue } from '../../../../test/support/render';
import { integratedLoudness } from '../../analysis/loudness';
import { Noise } from '../../dsp/noise';
import { effectById } from '../registry';
import type { ParameterValue, ParameterValues } from '../spec';
import { resolveValues } from '../resolve';
import { PATHS, type PathId } from './spec';
import { pathTransfer } from './transfer';

const RATE = 48000;
const TIMING = { tempoBpm: 120, beatsPerBar: 4 };
const spec = effectById('midside');

/** Two noises that have nothing to do with one another. */
function noises(frames: number, seed = 5): { left: Float32Array; right: Float32Array } {
  const noise = new Noise(seed);
  const left = Float32Array.from({ length: frames }, () => 0.3 * noise.white());
  return { left, right: Float32Array.from({ length: frames }, () => 0.3 * noise.white()) };
}

const through = (values: ParameterValues, left: Float32Array, right: Float32Array, rate = RATE) =>
  run(kernelOf('midside', values, rate), left, right);

type Values = Record<string, ParameterValue>;

/** Any setting of one path. */
const pathSetting = (id: PathId) =>
  fc
    .record({
      gain: fc.double({ min: -30, max: 12, noNaN: true }),
      polarity: fc.constantFrom('positive', 'negative'),
      delay: fc.double({ min: 0, max: 50, noNaN: true }),
      lowCut: fc.constantFrom(20, 60, 400, 2500, 10000),
      highCut: fc.constantFrom(100, 900, 5000, 15000, 20000),
      slope: fc.constantFrom('6', '12'),
      resonance: fc.double({ min: 0.5, max: 10, noNaN: true }),
    })
    .map((one): Values => Object.fromEntries(Object.entries(one).map(([key, value]) => [`${id}.${key}`, value])));
const anySetting = fc
  .tuple(
    pathSetting('midToMid'),
    pathSetting('sideToSide'),
    pathSetting('midToSide'),
    pathSetting('sideToMid'),
    fc.integer({ min: 0, max: 95 }),
    fc.integer({ min: 0, max: 100 }),
  )
  .map(([mm, ss, ms, sm, loop, amount]): Values => ({ ...mm, ...ss, ...ms, ...sm, loop, amount }));

describe('middle and sides', () => {
  it.each(RATES)('as it comes, and at an amount of nothing, gives the same bits at %d Hz', (rate) => {
    const { left, right } = noises(4000);
    // As large and as small as samples come, side by side.
    left.set([1, -1, 1e-30, 0.999, 3.4e38, -0], 100);
    right.set([1e-12, 1, -1, 1e-38, 1, 0.3], 100);
    fc.assert(
      fc.property(anySetting, (values) => {
        for (const settings of [{}, { ...values, amount: 0 }]) {
          const out = through(settings, left, right, rate);
          for (let n = 0; n < left.length; n++) {
            if (out.left[n] !== left[n] || out.right[n] !== right[n]) return false;
          }
        }
        return true;
      }),
      { numRuns: thinned(20) },
    );
  });

  it('what is encoded and decoded again is what it was, within -140 dB', () => {
    const { left, right } = noises(8000);
    const coded = through({ outputFormat: 'midSide' }, left, right);
    expect(coded.left[77]).toBeCloseTo((left[77]! + right[77]!) / 2, 7);
    expect(coded.right[77]).toBeCloseTo((left[77]! - right[77]!) / 2, 7);
    const back = through({ inputFormat: 'midSide' }, coded.left, coded.right);
    const off = Math.max(
      largest(back.left.map((x, n) => x - left[n]!)),
      largest(back.right.map((x, n) => x - right[n]!)),
    );
    expect(db(off / largest(left))).toBeLessThan(-140);
    // Both as middle and sides: the channels are what they are, and the side is turned down alone.
    const apart = through({ inputFormat: 'midSide', outputFormat: 'midSide', 'sideToSide.gain': -100 }, left, right);
    expect(apart.left).toEqual(left);
    expect(largest(apart.right)).toBe(0);
  });

  it('the mono sum is unchanged to -120 dB while side to mid is off and mid is at 0 dB, whatever else is set', () => {
    const { left, right } = noises(12000);
    fc.assert(
      fc.property(anySetting, (values) => {
        const safe = Object.fromEntries(
          Object.entries(values).filter(([id]) => !id.startsWith('midToMid') && !id.startsWith('sideToMid')),
        );
        const out = through({ ...safe, 'midToSide.gain': values['midToSide.gain']! }, left, right);
        let off = 0;
        let most = 0;
        for (let n = 0; n < left.length; n++) {
          off = Math.max(off, Math.abs(out.left[n]! + out.right[n]! - left[n]! - right[n]!));
          most = Math.max(most, Math.abs(out.left[n]!), Math.abs(out.right[n]!));
        }
        return db(off / most) < -120;
      }),
      { numRuns: thinned(60) },
    );
  });

  it('each way has the gain, the delay and the cuts of its prototypes, at any amount', () => {
    // At a small amount two sharp filters ring on for most of a second.
    const frames = 65536;
    const at = (sound: Float32Array, hz: number) => {
      let [re, im] = [0, 0];
      for (let n = 0; n < frames; n++) {
        re += sound[n]! * Math.cos((2 * Math.PI * hz * n) / RATE);
        im -= sound[n]! * Math.sin((2 * Math.PI * hz * n) / RATE);
      }
      return { re, im };
    };
    fc.assert(
      fc.property(anySetting, fc.constantFrom(...PATHS), (values, path) => {
        const settings = { ...values, loop: 0 };
        const resolved = resolveValues(spec, settings, TIMING);
        const figure = (id: string) => resolved[spec.parameters.findIndex((one) => one.id === id)]!;
        // A click in the middle or in the sides alone.
        const left = new Float32Array(frames);
        left[0] = 1;
        const right = left.map((x) => (path.from === 'mid' ? x : -x));
        const out = through(settings, left, right);
        const heard = left.map((_, n) => (out.left[n]! + (path.to === 'mid' ? 1 : -1) * out.right[n]!) / 2);
        const transfer = pathTransfer(path.id, figure, RATE);
        return [50, 110, 700, 3000, 11000].every((hz) => {
          const found = at(heard, hz);
          const wanted = transfer(hz);
          return (
            Math.hypot(found.re - wanted.re, found.im - wanted.im) <
            1e-4 * Math.max(1, Math.hypot(wanted.re, wanted.im))
          );
        });
      }),
      { numRuns: thinned(60) },
    );
  });

  it('echoes go round at the sum of both delays, each round by the square of the loop', () => {
    const click = new Float32Array(RATE);
    click[0] = 1;
    const out = through(
      { 'midToSide.gain': 0, 'midToSide.delay': 20, 'sideToMid.gain': 0, 'sideToMid.delay': 30, loop: 80 },
      click,
      click.slice(),
    );
    const mid = (n: number) => (out.left[n]! + out.right[n]!) / 2;
    const side = (n: number) => (out.left[n]! - out.right[n]!) / 2;
    expect(mid(0)).toBeCloseTo(1, 6);
    for (let round = 0; round < 4; round++) {
      expect(side(960 + round * 2400)).toBeCloseTo(0.64 ** round, 5);
      expect(mid(2400 + round * 2400)).toBeCloseTo(0.8 * 0.64 ** round, 5);
    }
    expect(largest(click.map((_, n) => (n % 2400 === 0 || n % 2400 === 960 ? 0 : mid(n))))).toBeLessThan(1e-9);
  });

  it('every loop dies away within the tail it tells, full-scale noise going in, whatever its gains and resonances', () => {
    const noise = new Noise(8);
    const loud = Float32Array.from({ length: 24000 }, () => noise.white());
    fc.assert(
      fc.property(anySetting, (values) => {
        const kernel = kernelOf('midside', { ...values, loop: 95, amount: 100 });
        const most = largest(
          run(
            kernel,
            loud,
            loud.map((x, n) => -x * (n % 3)),
          ).left,
        );
        if (!(most < 100)) return false;
        const tail = kernel.tailSeconds();
        const rest = run(kernel, new Float32Array(Math.ceil(tail * RATE)));
        return Math.max(largest(rest.left.slice(-2000)), largest(rest.right.slice(-2000))) < most * 10 ** (-80 / 20);
      }),
      { numRuns: thinned(12) },
    );
  });

  it('keeps the loudness of what comes in within half a unit, and holds its level when told to', () => {
    const noise = new Noise(3);
    const middle = Float32Array.from({ length: 6 * RATE }, () => 0.1 * noise.pink());
    const left = middle.map((x) => x + 0.07 * noise.pink());
    const right = middle.map((x) => x + 0.07 * noise.pink());
    const loudness = (l: Float32Array, r: Float32Array) =>
      integratedLoudness([l.slice(3 * RATE), r.slice(3 * RATE)], RATE);
    const settings: readonly Values[] = [
      { 'sideToSide.gain': 9 },
      { 'midToMid.gain': -12 },
      { 'midToSide.gain': 3, 'midToSide.delay': 9 },
    ];
    for (const setting of settings) {
      const plain = through(setting, left, right);
      const matched = through({ ...setting, autoLevel: true }, left, right);
      const dry = loudness(left, right);
      expect(Math.abs(loudness(plain.left, plain.right) - dry)).toBeGreaterThan(1);
      expect(Math.abs(loudness(matched.left, matched.right) - dry)).toBeLessThan(0.5);
    }
    const kernel = kernelOf('midside', { 'sideToSide.gain': 12, autoLevel: true });
    run(kernel, left, right);
    setValue(kernel, 'midside', 'holdLevel', true);
    run(kernel, new Float32Array(4800));
    const one = new Float32Array(4800).fill(0.1);
    const [first, later] = [run(kernel, one).left[4000]!, run(kernel, one).left[4000]!];
    expect(first).toBeLessThan(0.07);
    expect(later).toBe(first);
  });

  it('hears the ways in solo alone, and not those muted', () => {
    const { left, right } = noises(2000);
    const sides = through({ 'sideToSide.solo': true }, left, right);
    expect(sides.left[1500]).toBeCloseTo((left[1500]! - right[1500]!) / 2, 6);
    expect(sides.right[1500]).toBeCloseTo((right[1500]! - left[1500]!) / 2, 6);
    const mono = through({ 'sideToSide.mute': true }, left, right);
    expect(mono.left).toEqual(mono.right);
  });
});
