import { SeededRandom } from '../math/random';
import { outlineOf, outlineOfPeaks } from './outline';
import { computePeaks, PEAK_FRAMES } from './peaks';

const random = new SeededRandom(3);
const sound = Float32Array.from({ length: 20000 }, () => random.bipolar());
const other = Float32Array.from({ length: 20000 }, () => random.bipolar());
const stretch = { first: 5000, sides: [sound.subarray(5000, 15000), other.subarray(5000, 15000)] };

describe('the outline of a sound', () => {
  it('has the lowest and highest sample of both sides in each column', () => {
    for (let round = 0; round < 40; round++) {
      const perColumn = 0.2 + 60 * random.uniform();
      const from = 5000 + 3000 * random.uniform();
      const pairs = outlineOf(stretch, from, perColumn, 100);
      for (let column = 0; column < 100; column++) {
        const begin = Math.floor(from + column * perColumn);
        const end = Math.max(begin + 1, Math.ceil(from + (column + 1) * perColumn));
        const all = [...sound.slice(begin, end), ...other.slice(begin, end)];
        expect(pairs[2 * column]).toBe(Math.min(...all));
        expect(pairs[2 * column + 1]).toBe(Math.max(...all));
      }
    }
  });

  it('is silence outside the stretch', () => {
    const pairs = outlineOf(stretch, 4900, 50, 4);
    expect([...pairs.slice(0, 4)]).toEqual([0, 0, 0, 0]);
    expect(pairs[5]).toBeGreaterThan(0);
    expect([...outlineOf({ first: 0, sides: [] }, 0, 1, 2)]).toEqual([0, 0, 0, 0]);
  });

  it('from peaks lies within a step of a byte of that from samples', () => {
    const peaks = computePeaks([sound, other]);
    const whole = { first: 0, sides: [sound, other] };
    const [fine, coarse] = [
      outlineOf(whole, 0, 2 * PEAK_FRAMES, 30),
      outlineOfPeaks(peaks, PEAK_FRAMES, 0, 2 * PEAK_FRAMES, 30),
    ];
    fine.forEach((value, n) => expect(Math.abs(value - coarse[n]!)).toBeLessThan(1 / 127));
  });
});
