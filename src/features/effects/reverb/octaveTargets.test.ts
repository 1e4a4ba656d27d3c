import { tilted, withFactor } from './octaveTargets';

const range = { min: 0.1, max: 4 };
const flat = Array<number>(9).fill(1);

it('a target is set for one octave, within its range', () => {
  expect(withFactor(flat, 2, 0.55562, range)).toEqual([1, 1, 0.5556, 1, 1, 1, 1, 1, 1]);
  expect(withFactor(flat, 8, 9, range)[8]).toBe(4);
  expect(withFactor(flat, 8, 0, range)[8]).toBe(0.1);
});

it('a tilt turns one side about 1 kHz, keeps the shape, and stays within the range', () => {
  expect(tilted(flat, 'lows', 2, range)).toEqual([2, 1.682, 1.414, 1.189, 1, 1, 1, 1, 1]);
  expect(tilted(flat, 'highs', 0.5, range)).toEqual([1, 1, 1, 1, 1, 0.8409, 0.7071, 0.5946, 0.5]);
  const shaped = [1, 1, 1, 1, 1, 0.9, 0.8, 0.7, 0.6];
  expect(tilted(tilted(shaped, 'highs', 0.5, range), 'highs', 2, range)).toEqual(shaped);
  expect(Math.max(...tilted(flat, 'lows', 100, range))).toBe(4);
});
