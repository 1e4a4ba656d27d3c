import { barsOf, heightOf, usefulSeconds } from './echogramScale';

describe('echogram drawing', () => {
  const levels = new Float32Array(100);
  levels[10] = 0.5;
  levels[11] = 0.4;
  levels[30] = 0.25;
  levels[60] = 0.0005;
  const times = Float64Array.from(levels, (_, slot) => slot * 0.02 + 0.001);

  it('finds arrivals above the floor, and the loudest when there are too many', () => {
    expect(barsOf(levels, times, 10).map(({ at }) => at)).toEqual([0.201, 0.601]);
    expect(barsOf(levels, times, 10)[0]!.db).toBeCloseTo(-6.02, 2);
    expect(barsOf(levels, times, 1)).toHaveLength(1);
  });

  it('shows whole bars, at least one, none after that in which the echogram ends', () => {
    const echogram = {
      seconds: 2,
      left: levels,
      right: new Float32Array(100),
      leftSeconds: times,
      rightSeconds: times,
      dryLeft: 1,
      dryRight: 1,
      endless: false,
    };
    expect(usefulSeconds(echogram, 0.5)).toBe(1);
    expect(usefulSeconds({ ...echogram, left: new Float32Array(100) }, 0.5)).toBe(0.5);
    expect(usefulSeconds(echogram, 5)).toBe(5);
    const full = { ...echogram, left: new Float32Array(100).fill(0.5) };
    expect(usefulSeconds(full, 0.5)).toBe(2);
  });

  it('has heights from the floor to full', () => {
    expect([heightOf(0), heightOf(-30), heightOf(-60), heightOf(-90)]).toEqual([1, 0.5, 0, 0]);
  });
});
