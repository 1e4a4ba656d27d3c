import { PitchCourse } from './pitchCourse';

const D_DORIAN = [2, 4, 5, 7, 9, 11, 0];

describe('the picture of pitches', () => {
  const course = () => new PitchCourse(['source', 'voice 1'], 4.8, D_DORIAN, 62);

  it('has a line for each key of the scale, with its degree', () => {
    const { keys } = course();
    expect(keys.ticks.map(keys.word)).toEqual(expect.arrayContaining(['1 · D4', '3 · F4', '7 · C4']));
    expect(keys.ticks.map(keys.word).some((word) => word.includes('F#'))).toBe(false);
  });

  it('puts pitches where they are sung, and what is beside the key once more', () => {
    const one = course();
    one.put(1, [62.1, 65.1]);
    one.put(1.02, [66, NaN]);
    const at = (line: number, second: number) => one.lines[line]!.points[Math.floor(second * 100)]!.y;
    expect([at(0, 1), at(1, 1)]).toEqual([62.1, 65.1]);
    expect(at(1, 1.02)).toBeNaN();
    // F sharp is no note of D dorian; a tenth beside D is D.
    expect(at(2, 1)).toBeNaN();
    expect(at(2, 1.02)).toBe(66);
  });

  it('shows where now is by a gap', () => {
    const one = course();
    for (let second = 0; second < 4.8; second += 0.01) one.put(second, [62, 65]);
    one.put(0.5, [64, 67]);
    expect(one.lines[0]!.points[50]!.y).toBe(64);
    expect(one.lines[0]!.points[52]!.y).toBeNaN();
    expect(one.lines[0]!.points[70]!.y).toBe(62);
  });
});
