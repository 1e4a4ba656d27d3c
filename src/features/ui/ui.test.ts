import { meterPosition } from './levels';
import { formatPitch, formatPosition, formatSeconds, formatTime, snapTo } from './music';
import { takesLevelAway } from '../controls/reduction';

describe('positions', () => {
  it('count bars and beats of the metre from one', () => {
    const waltz = { metreBeats: 3, metreUnit: 4 };
    expect(formatPosition(0, waltz)).toEqual({ bar: 1, beat: 1, part: 0 });
    expect(formatPosition(16.25, waltz)).toEqual({ bar: 6, beat: 2, part: 25 });
    expect(formatPosition(3, { metreBeats: 6, metreUnit: 8 })).toEqual({ bar: 2, beat: 1, part: 0 });
    expect(formatSeconds(65.34)).toBe('1:05.3');
  });

  it('name the note that a frequency is near, and the note value of a time', () => {
    expect([440, 466.16, 27.5, 1000, 60].map(formatPitch)).toEqual([
      '440 Hz, A4',
      '466 Hz, A♯4',
      '27.5 Hz, A0',
      '1 kHz, B5 +21 ct',
      '60 Hz, B1 −49 ct',
    ]);
    const timing = { tempoBpm: 84, beatsPerBar: 3 };
    expect([0.5357, 0.3, 15 / 7, 3.3].map((seconds) => formatTime(seconds, timing))).toEqual([
      '536 ms, 1/8 dotted',
      '300 ms, 0.42 beats',
      '2.14 s, 1/2 dotted',
      '3.30 s, 4.62 beats',
    ]);
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
