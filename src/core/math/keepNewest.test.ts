import { keepNewest } from './keepNewest';

describe('keepNewest', () => {
  it('removes the oldest entries beyond a count, and tells which', () => {
    const map = new Map([1, 2, 3, 4].map((one) => [one, `value ${one}`]));
    map.delete(2);
    map.set(2, 'again');
    const removed: string[] = [];
    keepNewest(map, 2, (value) => removed.push(value));
    expect([...map]).toEqual([
      [4, 'value 4'],
      [2, 'again'],
    ]);
    expect(removed).toEqual(['value 1', 'value 3']);
  });

  it('leaves a map that is small enough', () => {
    const map = new Map([[1, 1]]);
    keepNewest(map, 1);
    keepNewest(map, 5);
    expect(map.size).toBe(1);
  });
});
