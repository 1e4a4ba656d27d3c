import { fewBars } from './sessionSummary';

type Bar = Parameters<typeof fewBars>[0][number];

describe('the bars that a session is drawn by', () => {
  it('are left as they are while they are few', () => {
    const bars: Bar[] = [
      [1, 0.5, 0.6, '5'],
      [0, 0, 0.2],
    ];
    expect(fewBars(bars, 2)).toBe(bars);
  });

  it('are joined where they lie nearest, on their lane, and stay as loud as they are', () => {
    const bars: Bar[] = [
      [0, 0, 0.25, '9'.repeat(30)],
      [0, 0.26, 0.5, '3'.repeat(29)],
      [0, 0.9, 1, '7'.repeat(12)],
      [1, 0.5, 0.6, '1'.repeat(12)],
    ];
    const [joined, ...others] = fewBars(bars, 3);
    expect(others).toEqual(bars.slice(2));
    const [lane, from, to, levels] = joined!;
    expect([lane, from, to, levels!.length]).toEqual([0, 0, 0.5, 60]);
    expect([levels!.slice(0, 30), levels!.slice(31, 60)]).toEqual(['9'.repeat(30), '3'.repeat(29)]);
  });

  it('are two hundred at most, whatever there is', () => {
    const many = Array.from({ length: 1000 }, (_, n): Bar => [n % 40, n / 1000, (n + 0.9) / 1000, 'a']);
    expect(fewBars(many, 200)).toHaveLength(200);
    expect(new Set(fewBars(many, 200).map(([lane]) => lane)).size).toBe(40);
    const lanes = Array.from({ length: 300 }, (_, n): Bar => [n, 0, 1, 'a']);
    expect(fewBars(lanes, 200)).toHaveLength(200);
  });
});
