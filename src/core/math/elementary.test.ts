import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { atan2, cos, dbToGain, exp, gainToDb, log, pow, sin, tan } from './elementary';
import { SeededRandom } from './random';
import { besselI0, kaiser, sinc } from './windows';

const real = (min: number, max: number) => fc.double({ min, max, noNaN: true });

/** Distance in units in the last place of the expected value, with a floor where results pass through zero. */
function ulps(actual: number, expected: number): number {
  const unit = 2 ** (Math.floor(Math.log2(Math.max(Math.abs(expected), 1e-300))) - 52);
  return Math.abs(actual - expected) / unit;
}

describe('elementary functions', () => {
  it.each<[string, (x: number) => number, (x: number) => number, number, number, number]>([
    ['exp', exp, Math.exp, -700, 700, 2],
    ['log', log, Math.log, 1e-300, 1e300, 2],
    ['sin', sin, Math.sin, -1e4, 1e4, 2],
    ['cos', cos, Math.cos, -1e4, 1e4, 2],
    ['tan', tan, Math.tan, -1.5, 1.5, 3],
  ])('%s stays within 2 to 3 ulp of the built-in one', (_, own, builtIn, min, max, limit) => {
    fc.assert(
      fc.property(real(min, max), (x) => ulps(own(x), builtIn(x)) <= limit),
      { numRuns: thinned(5000) },
    );
  });

  it('atan2 is right to 3e-15 all round, and at its axes', () => {
    fc.assert(
      fc.property(real(-50, 50), real(-50, 50), (y, x) => {
        // Below and above the negative axis are one direction here, whatever the sign of a zero.
        expect(Math.abs(atan2(y, x) - Math.atan2(y + 0, x + 0))).toBeLessThan(3e-15);
      }),
    );
    expect([atan2(0, 1), atan2(0, 0), atan2(0, -1), atan2(-2, 0)]).toEqual([0, 0, Math.PI, -Math.PI / 2]);
  });

  it('pow agrees with the built-in one to 1e-12', () => {
    fc.assert(fc.property(real(1e-6, 1e6), real(-20, 20), (x, y) => Math.abs(pow(x, y) / Math.pow(x, y) - 1) < 1e-12));
  });

  it('keeps exact values exact', () => {
    expect([exp(0), log(1), sin(0), cos(0), dbToGain(0), dbToGain(-Infinity)]).toEqual([1, 0, 0, 1, 1, 0]);
    expect([exp(-Infinity), exp(800), log(0), log(-1)]).toEqual([0, Infinity, -Infinity, NaN]);
  });

  it('dB and gain are inverses', () => {
    fc.assert(fc.property(real(-140, 40), (db) => Math.abs(gainToDb(dbToGain(db)) - db) < 1e-11));
    expect(dbToGain(-6)).toBeCloseTo(0.5011872336272722, 14);
  });
});

describe('seeded random numbers', () => {
  it('repeat with the seed, differ between seeds and fill the range evenly', () => {
    const draw = (seed: number) => {
      const random = new SeededRandom(seed);
      return Array.from({ length: 20000 }, () => random.bipolar());
    };
    expect(draw(7)).toEqual(draw(7));
    expect(draw(7).slice(0, 4)).not.toEqual(draw(8).slice(0, 4));
    const values = draw(1);
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    const power = values.reduce((sum, v) => sum + v * v, 0) / values.length;
    expect(Math.abs(mean)).toBeLessThan(0.02);
    expect(power).toBeCloseTo(1 / 3, 1);
  });
});

describe('windows', () => {
  it('have the published values', () => {
    expect(besselI0(1)).toBeCloseTo(1.2660658777520084, 12);
    expect(kaiser(0, 9)).toBe(1);
    expect(kaiser(1, 9)).toBeCloseTo(1 / besselI0(9), 12);
    expect(kaiser(1.01, 9)).toBe(0);
    expect(sinc(0)).toBe(1);
    expect(Math.abs(sinc(3))).toBeLessThan(1e-15);
  });
});
