import fc from 'fast-check';
import { degreeOf, keyByDegrees, nearestInScale } from './scaleKeys';

const D_DORIAN = [2, 4, 5, 7, 9, 11, 0];
const A_MAJOR = [9, 11, 1, 2, 4, 6, 8];
const scales = fc.constantFrom(D_DORIAN, A_MAJOR, [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11], [0, 2, 4, 7, 9]);

describe('keys of a scale', () => {
  it('go up and down by its steps', () => {
    // D4 in D dorian: a third above is F4, a fifth A4, a step below C4, an octave D5.
    expect([2, 4, -1, 7].map((degrees) => keyByDegrees(62, degrees, D_DORIAN))).toEqual([65, 69, 60, 74]);
    expect(keyByDegrees(71, 2, D_DORIAN)).toBe(74);
    expect(keyByDegrees(69, 2, A_MAJOR)).toBe(73);
    // An F sharp beside the scale keeps its distance.
    expect(keyByDegrees(66, 2, D_DORIAN)).toBe(70);
  });

  it('come back by as many steps, and rise with their number', () => {
    fc.assert(
      fc.property(
        scales,
        fc.integer({ min: 20, max: 100 }),
        fc.integer({ min: -14, max: 14 }),
        (scale, key, degrees) => {
          const start = nearestInScale(key, scale);
          const moved = keyByDegrees(start, degrees, scale);
          expect(degreeOf(moved, scale)).toBeGreaterThanOrEqual(0);
          expect(keyByDegrees(moved, -degrees, scale)).toBe(start);
          expect(keyByDegrees(start, degrees + 1, scale)).toBeGreaterThan(moved);
          expect(keyByDegrees(start, scale.length, scale)).toBe(start + 12);
        },
      ),
    );
  });

  it('are found near any pitch', () => {
    expect(nearestInScale(61.4, D_DORIAN)).toBe(62);
    expect(nearestInScale(63, D_DORIAN)).toBe(62);
    expect(nearestInScale(66.6, D_DORIAN)).toBe(67);
  });
});
