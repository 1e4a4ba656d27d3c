import fc from 'fast-check';
import { ARRANGEMENTS, arranged, FEED_IDS, feedsOf, LINES, toMatrix } from './routing';

const on = (...lines: number[]) => Array.from({ length: LINES }, (_, n) => lines.includes(n + 1));

describe('the routing of a delay', () => {
  it('arranges the lines in use in their order', () => {
    const fed = (arrangement: 'parallel' | 'series' | 'pairs' | 'ring', ...lines: number[]) => {
      const { input, lines: between } = arranged(arrangement, on(...lines));
      return lines.map((line) => [
        ...(input[line - 1] ? ['in'] : []),
        ...lines.filter((source) => between[line - 1]![source - 1]).map(String),
      ]);
    };
    expect(fed('parallel', 1, 3)).toEqual([['in'], ['in']]);
    expect(fed('series', 2, 5, 7)).toEqual([['in'], ['2'], ['5']]);
    expect(fed('pairs', 1, 2, 3)).toEqual([['in'], ['1'], ['in']]);
    expect(fed('ring', 1, 2, 3)).toEqual([['in', '3'], ['1'], ['2']]);
    expect(fed('ring', 4)).toEqual([['in']]);
  });

  it('has a place for every source and line but a line into itself, each named once', () => {
    expect(FEED_IDS).toHaveLength(8 + 8 + 56);
    expect(new Set(FEED_IDS).size).toBe(FEED_IDS.length);
    expect(FEED_IDS).not.toContain('routing.3.3');
  });

  it('a matrix made of an arrangement says the same', () => {
    fc.assert(
      fc.property(
        fc.array(fc.boolean(), { minLength: LINES, maxLength: LINES }),
        fc.constantFrom(...ARRANGEMENTS.filter((one) => one !== 'matrix')),
        (used, arrangement) => {
          const feeds = feedsOf(arrangement, used, () => 0);
          const matrix = toMatrix(feeds);
          expect(Object.keys(matrix).sort()).toEqual([...FEED_IDS].sort());
          expect(feedsOf('matrix', used, (id) => matrix[id]!)).toEqual(feeds);
        },
      ),
    );
  });

  it('leaves lines out of use out of the matrix', () => {
    const feeds = feedsOf('matrix', on(1, 2), () => 100);
    expect(feeds.input).toEqual([1, 1, 0, 0, 0, 0, 0, 0]);
    expect(feeds.lines[1]).toEqual([1, 0, 0, 0, 0, 0, 0, 0]);
    expect(feeds.lines[4]!.every((gain) => gain === 0)).toBe(true);
  });
});
