import fc from 'fast-check';
import { frequencyAxis, placeOn, type ChartAxis } from './axes';
import { zoomed, type Stretch } from './zoom';

const seconds: ChartAxis = { title: 's', min: -8, max: 0, scale: 'linear', ticks: [], word: String };

describe('a part of an axis', () => {
  it('keeps what is under the pointer where it is, in octaves as in seconds', () => {
    for (const axis of [frequencyAxis, seconds]) {
      fc.assert(
        fc.property(fc.double({ min: 0, max: 1, noNaN: true }), fc.integer({ min: 1, max: 5 }), (about, steps) => {
          let part: Stretch | null = null;
          for (let n = 0; n < steps; n++) part = zoomed(axis, part, about, 0.5);
          const [low, high] = [placeOn(axis, part![0]), placeOn(axis, part![1])];
          expect(high - low).toBeCloseTo(0.5 ** steps, 9);
          expect(low + about * (high - low)).toBeCloseTo(about, 9);
        }),
        { seed: 11 },
      );
    }
  });

  it('pans as far as the axis goes, comes no closer than can be read, and goes back to all', () => {
    const half = zoomed(seconds, null, 0, 0.5)!;
    expect(half).toEqual([-8, -4]);
    expect(zoomed(seconds, half, 0.5, 1, 0.5)).toEqual([-6, -2]);
    expect(zoomed(seconds, half, 0.5, 1, 9)).toEqual([-4, 0]);
    const closest = zoomed(seconds, half, 0, 1e-6)!;
    expect(closest[1] - closest[0]).toBeCloseTo(8 / 64, 9);
    expect(zoomed(seconds, half, 0.5, 2)).toBeNull();
    expect(zoomed(seconds, closest, 0.5, Infinity)).toBeNull();
  });
});
