import { thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import {
  amplitudeAt,
  db,
  firstDifference,
  kernelOf,
  largest,
  RATES,
  run,
  setValue,
  sine,
} from '../../../../test/support/render';
import { Noise } from '../../dsp/noise';

/** Level of a tone after the effect, once it has settled, against before. */
function levelAt(hz: number, values: Record<string, number>, rate: number): number {
  const tone = sine(hz, rate, rate, 0.02);
  return db(amplitudeAt(run(kernelOf('tilt', values, rate), tone).left.slice(rate / 2), hz, rate) / 0.02);
}

describe('tilt', () => {
  it('is the sound itself at zero', () => {
    const noise = new Noise(4);
    const sound = Float32Array.from({ length: 4800 }, () => noise.white());
    expect(firstDifference(run(kernelOf('tilt', {}), sound).left, sound)).toBe(-1);
  });

  it.each(RATES)('rises by as many decibels an octave as are set, at %i Hz', (rate) => {
    for (const slope of [-3, -1.3, 0.4, 3]) {
      for (const hz of [40, 110, 440, 1700, 5000, 10000]) {
        expect(Math.abs(levelAt(hz, { slope }, rate) - slope * Math.log2(hz / 650))).toBeLessThan(0.5);
      }
      expect(Math.abs(levelAt(15500, { slope }, rate) - slope * Math.log2(15500 / 650))).toBeLessThan(0.7);
    }
  });

  it('keeps the level of the pivot, whatever else is set', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: 100, max: 5000, noNaN: true }),
        (slope, pivot) => Math.abs(levelAt(pivot, { slope, pivot }, 48000)) < 0.01,
      ),
      { numRuns: thinned(12) },
    );
  });

  it('turns without a step while a tone runs, to where it would have begun', () => {
    const kernel = kernelOf('tilt', { slope: -3 });
    const tone = sine(200, 48000, 48000, 0.2);
    const out = run(kernel, tone, undefined, [128], (frame) => {
      if (frame === 128 * 100) setValue(kernel, 'tilt', 'slope', 3);
    }).left;
    const course = out.slice(12000, 15000);
    const steps = course.slice(1).map((one, n) => one - course[n]!);
    expect(largest(steps)).toBeLessThan(1.05 * 0.2 * 2 ** 0.85 * ((2 * Math.PI * 200) / 48000));
    const settled = run(kernelOf('tilt', { slope: 3 }), tone).left;
    expect(largest(out.slice(40000).map((one, n) => one - settled[40000 + n]!))).toBeLessThan(1e-6);
  });

  it('is silent after its tail', () => {
    const kernel = kernelOf('tilt', { slope: -3 });
    run(kernel, sine(30, 48000, 9600, 1));
    const rest = run(kernel, new Float32Array(48000)).left;
    expect(largest(rest.slice(Math.ceil(kernel.tailSeconds() * 48000)))).toBeLessThan(3.2e-5);
  });
});
