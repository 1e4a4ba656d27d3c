import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { roundTicks } from './axes';

describe('round ticks', () => {
  it('are round, within the axis, and told apart by their digits', () => {
    expect(roundTicks(0, 4.286, 6)).toEqual({ ticks: [0, 1, 2, 3, 4], digits: 0 });
    expect(roundTicks(0, 600, 6)).toEqual({ ticks: [0, 100, 200, 300, 400, 500, 600], digits: 0 });
    expect(roundTicks(4.1, 5.3, 4)).toEqual({ ticks: [4.5, 5], digits: 1 });
    expect(roundTicks(-0.07, 0.07, 4)).toEqual({ ticks: [-0.05, 0, 0.05], digits: 2 });
  });

  it('whatever the axis is', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1000, max: 1000, noNaN: true }),
        fc.double({ min: 0.001, max: 5000, noNaN: true }),
        fc.integer({ min: 2, max: 8 }),
        (min, span, most) => {
          const { ticks, digits } = roundTicks(min, min + span, most);
          expect(ticks.length).toBeGreaterThan(0);
          expect(ticks.length).toBeLessThanOrEqual(most + 1);
          expect(new Set(ticks.map((tick) => tick.toFixed(digits))).size).toBe(ticks.length);
          for (const tick of ticks) {
            expect(tick).toBeGreaterThanOrEqual(min - 1e-6 * span);
            expect(tick).toBeLessThanOrEqual(min + span + 1e-6 * span);
            expect(Number(tick.toFixed(digits))).toBe(tick);
          }
        },
      ),
      { numRuns: thinned(300) },
    );
  });
});
