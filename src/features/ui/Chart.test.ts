import { csvOf, type ChartLine } from './Chart';
import type { ChartAxis } from './axes';

const axis = (title: string): ChartAxis => ({ title, min: 0, max: 1, scale: 'linear', ticks: [], word: String });
const line = (name: string, ...points: [number, number][]): ChartLine => ({
  name,
  ink: 'dry',
  marks: 'none',
  points: points.map(([x, y]) => ({ x, y })),
  reading: () => '',
});

describe('the figures of a chart', () => {
  it('are written a point a line, by course, with their axes', () => {
    const lines = [line('wish', [63, 1.5], [125, 2]), line('the "old" one', [63, -0.25])];
    expect(csvOf(axis('Hz'), axis('decay, s'), lines)).toBe(
      'course,"Hz","decay, s"\n"wish",63,1.5\n"wish",125,2\n"the ""old"" one",63,-0.25\n',
    );
  });
});
