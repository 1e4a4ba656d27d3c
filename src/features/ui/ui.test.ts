import { meterPosition } from './levels';
import { formatPosition, formatSeconds, snapTo } from './music';
import { takesLevelAway } from './reduction';

describe('positions', () => {
  it('count bars and beats of the metre from one', () => {
    const waltz = { metreBeats: 3, metreUnit: 4 };
    expect(formatPosition(0, waltz)).toEqual({ bar: 1, beat: 1, part: 0 });
    expect(formatPosition(16.25, waltz)).toEqual({ bar: 6, beat: 2, part: 25 });
    expect(formatPosition(3, { metreBeats: 6, metreUnit: 8 })).toEqual({ bar: 2, beat: 1, part: 0 });
    expect(formatSeconds(65.34)).toBe('1:05.3');
  });

  it('snap to the grid, or not at all', () => {
    expect([snapTo(2.6, 1), snapTo(2.6, 0.5), snapTo(2.6, 0), snapTo(4, 3)]).toEqual([3, 2.5, 2.6, 3]);
  });

  it('put levels on the meter in order, full scale before the end', () => {
    expect(meterPosition(0)).toBe(0);
    expect(meterPosition(1)).toBeGreaterThan(0.85);
    expect(meterPosition(1)).toBeLessThan(1);
    expect(meterPosition(0.5)).toBeLessThan(meterPosition(1));
    expect(meterPosition(100)).toBe(1);
  });
});

describe('the level that an effect takes away', () => {
  it('is shown where there can be any: by a delay only with ducking or its limiter', () => {
    const takes = (effect: string, values = {}) => takesLevelAway({ effect, values });
    expect([takes('compressor'), takes('utility')]).toEqual([true, false]);
    expect([takes('delay'), takes('delay', { duckAmount: 0 })]).toEqual([false, false]);
    expect([takes('delay', { duckAmount: 6 }), takes('delay', { safety: true })]).toEqual([true, true]);
  });
});
