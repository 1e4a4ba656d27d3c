import { thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import {
  amplitudeAt,
  db,
  impulse,
  kernelOf,
  largest,
  RATES,
  run,
  sine,
  readMeter,
} from '../../../../test/support/render';
import { measureField } from '../../analysis/stereoField';
import { Noise } from '../../dsp/noise';
import type { ParameterValues } from '../spec';

const RATE = 48000;
const still = { drift: 0, detune: 0 } as const;
const noise = (frames: number, seed: number) => {
  const source = new Noise(seed);
  return Float32Array.from({ length: frames }, () => 0.3 * source.white());
};
const through = (values: ParameterValues, left: Float32Array, right = left.slice(), rate = RATE) =>
  run(kernelOf('doubler', values, rate), left, right);

/** Delays of the copies on the left and right, block by block, in seconds. */
function course(values: ParameterValues, seconds: number): number[][] {
  const kernel = kernelOf('doubler', values);
  const block = new Float32Array(128);
  return Array.from({ length: Math.round((seconds * RATE) / 128) }, () => {
    run(kernel, block);
    return readMeter(kernel, 'doubler', 'delays');
  });
}

describe('doubler', () => {
  it('without any mix gives the same bits, whatever else is set', () => {
    const [left, right] = [noise(4000, 1), noise(4000, 2)];
    fc.assert(
      fc.property(
        fc.record({
          mode: fc.constantFrom('split', 'copies'),
          voices: fc.constantFrom('1', '2', '3', '4'),
          side: fc.constantFrom('left', 'right'),
          time: fc.double({ min: 1, max: 60, noNaN: true }),
          drift: fc.integer({ min: 0, max: 100 }),
          detune: fc.integer({ min: 0, max: 50 }),
          lowMono: fc.constantFrom(20, 100, 800),
          midScoop: fc.integer({ min: 0, max: 12 }),
          width: fc.integer({ min: 0, max: 100 }),
        }),
        (values) => {
          const out = through({ ...values, mix: 0 }, left, right);
          return left.every((x, n) => out.left[n] === x) && right.every((x, n) => out.right[n] === x);
        },
      ),
      { numRuns: thinned(20) },
    );
  });

  it.each(RATES)('splits a sound: itself on one side, a copy just as late as is set on the other, at %d Hz', (rate) => {
    const click = impulse(rate / 10);
    for (const [side, near, far] of [
      ['right', 'left', 'right'],
      ['left', 'right', 'left'],
    ] as const) {
      const out = through({ ...still, side, time: 20 }, click, click.slice(), rate);
      const late = rate / 50;
      expect(out[near][0]).toBeCloseTo(1, 6);
      expect(largest(out[near].slice(1))).toBeLessThan(1e-6);
      expect(out[far][late]).toBeCloseTo(1, 3);
      expect(largest(out[far].map((x, n) => (n === late ? 0 : x)))).toBeLessThan(2e-3);
    }
  });

  it('alone, the copy is a send of its own, and without width both stand in the middle', () => {
    const click = impulse(4800);
    const alone = through({ ...still, time: 20, mix: 100 }, click);
    expect([largest(alone.left), alone.right[960]!.toFixed(2)]).toEqual([0, '1.00']);
    // A return leaves out the lows, which are not doubled.
    const lows = through({ ...still, time: 20, mix: 100, lowMono: 800 }, sine(60, RATE, RATE, 0.5));
    expect(db(largest(lows.right.slice(RATE / 2)) / 0.5)).toBeLessThan(-40);
    const narrow = through({ ...still, time: 20, width: 0 }, click);
    expect(narrow.left).toEqual(narrow.right);
    expect([narrow.left[0]!.toFixed(2), narrow.left[960]!.toFixed(2)]).toEqual(['1.00', '1.00']);
  });

  it('in mono a split cancels first at half a turn of its time', () => {
    for (const time of [5, 12, 30]) {
      const hz = 500 / time;
      const tone = sine(hz, RATE, RATE, 0.5);
      const out = through({ ...still, time }, tone);
      const mono = out.left.map((x, n) => (x + out.right[n]!) / 2).slice(RATE / 2);
      expect(db(amplitudeAt(mono, hz, RATE) / 0.5)).toBeLessThan(-40);
      const below = sine(hz / 10, RATE, RATE, 0.5);
      const kept = through({ ...still, time }, below);
      const low = kept.left.map((x, n) => (x + kept.right[n]!) / 2).slice(RATE / 2);
      expect(db(amplitudeAt(low, hz / 10, RATE) / 0.5)).toBeGreaterThan(-0.5);
    }
  });

  it('copies wander within what is asked, never further out of tune, each for itself', () => {
    const [drift, detune, time] = [80, 45, 30];
    const delays = course({ mode: 'copies', voices: '4', drift, detune, time }, 90);
    const steepest = 2 ** (detune / 1200) - 1;
    const copies = [0, 1, 2, 3].map((n) => delays.map((one) => one[2 * n]! || one[2 * n + 1]!));
    copies.forEach((one, n) => {
      const own = (time / 1000) * (1 + 0.3 * ((2 * n) / 3 - 1));
      const reach = (0.5 * own * drift) / 100;
      const off = one.map((x) => x - own);
      expect(Math.max(...off.map(Math.abs))).toBeLessThan(reach * 1.001);
      expect(Math.max(...off) - Math.min(...off)).toBeGreaterThan(reach * 0.5);
      const slopes = one.slice(1).map((x, i) => Math.abs(x - one[i]!) * (RATE / 128));
      expect(Math.max(...slopes)).toBeLessThan(steepest * 1.01);
      expect(Math.max(...slopes)).toBeGreaterThan(steepest * 0.4);
    });
    const centred = copies.map((one) => {
      const mean = one.reduce((sum, x) => sum + x, 0) / one.length;
      return one.map((x) => x - mean);
    });
    const together = (a: number[], b: number[]) => a.reduce((sum, x, i) => sum + x * b[i]!, 0);
    for (const [a, b] of [
      [0, 1],
      [0, 2],
      [1, 3],
      [2, 3],
    ] as const) {
      const [one, other] = [centred[a]!, centred[b]!];
      const alike = together(one, other) / Math.sqrt(together(one, one) * together(other, other));
      expect(Math.abs(alike)).toBeLessThan(0.5);
    }
    // Without detuning they stand still.
    const standing = course({ mode: 'copies', voices: '2', drift: 100, detune: 0, time }, 2);
    expect(new Set(standing.map((one) => one[0])).size).toBe(1);
  });

  it('wanders the same wherever playback began', () => {
    const values = { mode: 'copies', voices: '3', drift: 70, detune: 20, time: 25 } as const;
    const whole = kernelOf('doubler', values);
    whole.locate(0);
    run(whole, new Float32Array(128 * 800));
    const late = kernelOf('doubler', values);
    late.locate(128 * 700);
    run(late, new Float32Array(128 * 100));
    const [one, other] = [readMeter(whole, 'doubler', 'delays'), readMeter(late, 'doubler', 'delays')];
    one.forEach((x, n) => {
      if (!Number.isNaN(x)) expect(Math.abs(x - other[n]!)).toBeLessThan(2e-7);
    });
  });

  it('leaves the lows as they were: an octave below they are 12 dB narrower, and no level changes where they meet', () => {
    const click = new Float32Array(32768);
    click[16384] = 1;
    const split = through({ ...still, time: 15, lowMono: 400 }, click);
    for (const hz of [40, 200, 400, 800, 5000, 15000]) {
      // The side of the sound itself has all of it, whatever its phase.
      expect(Math.abs(db(amplitudeAt(split.left, hz, RATE) / amplitudeAt(click, hz, RATE)))).toBeLessThan(0.05);
    }
    const tones = [100, 200, 3000].map((hz) => {
      const out = through({ ...still, time: 15, lowMono: 400 }, sine(hz, RATE, RATE, 0.5));
      return measureField(out.left.slice(RATE / 2), out.right.slice(RATE / 2), RATE);
    });
    expect(Math.abs(tones[0]!.tiltDb!)).toBeLessThan(1.5);
    expect(tones[0]!.correlation!).toBeGreaterThan(0.95);
    const wide = through({ ...still, time: 15, lowMono: 400 }, noise(2 * RATE, 4));
    const field = measureField(wide.left, wide.right, RATE);
    expect(field.octaves.find(({ fromHz, toHz }) => fromHz < 100 && toHz > 100)!.correlation!).toBeGreaterThan(0.95);
    expect(Math.abs(field.octaves.at(-2)!.correlation!)).toBeLessThan(0.1);
  });

  it('scoops the middle alone, by as much as is set', () => {
    const sound = noise(2 * RATE, 7);
    const other = noise(2 * RATE, 8);
    const setting = { ...still, mode: 'copies', time: 21 } as const;
    const plain = through(setting, sound, other);
    const scooped = through({ ...setting, midScoop: 9 }, sound, other);
    const middle = (x: { left: Float32Array; right: Float32Array }) => x.left.map((l, n) => l + x.right[n]!);
    const side = (x: { left: Float32Array; right: Float32Array }) => x.left.map((l, n) => l - x.right[n]!);
    const of = (hz: number) => db(amplitudeAt(middle(scooped), hz, RATE) / amplitudeAt(middle(plain), hz, RATE));
    expect(of(2500)).toBeCloseTo(-9, 1);
    expect(Math.abs(of(60))).toBeLessThan(0.1);
    const [one, two] = [side(plain), side(scooped)];
    expect(largest(one.map((x, n) => x - two[n]!))).toBeLessThan(1e-6);
  });
});
