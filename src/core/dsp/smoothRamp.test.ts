import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { SmoothRamp } from './smoothRamp';
import { smoothstep } from '../math/smoothstep';

const valuesOf = (ramp: SmoothRamp, frames: number) => Array.from({ length: frames }, () => ramp.next());

describe('a smooth ramp', () => {
  it('from rest to rest is a smoothstep', () => {
    const ramp = new SmoothRamp(0.25);
    ramp.moveTo(1, 100);
    valuesOf(ramp, 101).forEach((value, n) => expect(value).toBeCloseTo(0.25 + 0.75 * smoothstep(n / 100), 12));
    expect([ramp.settled, ramp.value]).toEqual([true, 1]);
  });

  it('has no corner wherever it is sent, and arrives', () => {
    const moves = fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.integer({ min: 1, max: 300 })), {
      minLength: 1,
      maxLength: 12,
    });
    fc.assert(
      fc.property(moves, (all) => {
        const ramp = new SmoothRamp(0);
        const values: number[] = [];
        for (const [target, wait] of all) {
          ramp.moveTo(target, 200);
          values.push(...valuesOf(ramp, wait));
        }
        values.push(...valuesOf(ramp, 201));
        // The steepest bend of a cubic over 200 frames from slopes of up to 2.5 / 200.
        const bends = values.slice(2).map((value, n) => Math.abs(value - 2 * values[n + 1]! + values[n]!));
        expect(Math.max(...bends)).toBeLessThan(20 / 200 ** 2);
        expect(ramp.value).toBe(all.at(-1)![0]);
      }),
      { numRuns: thinned(50) },
    );
  });

  it('goes the same way in blocks, by frames and in leaps', () => {
    const [one, two, three] = [new SmoothRamp(1), new SmoothRamp(1), new SmoothRamp(1)];
    for (const ramp of [one, two, three]) ramp.moveTo(0, 50);
    const block = new Float64Array(60);
    one.fill(block, 0, 20);
    one.fill(block, 20, 40);
    expect(valuesOf(two, 60)).toEqual(Array.from(block));
    three.skip(33);
    expect(three.next()).toBe(block[33]);
  });
});
