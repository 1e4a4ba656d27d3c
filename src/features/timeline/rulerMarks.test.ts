import { newDocument } from '@/core/session/records/factories';
import { rulerMarks } from './rulerMarks';

/** Four quarters a bar, half a second each. */
const session = { ...newDocument('Ruler').session, tempoBpm: 120 };

describe('marks of the beat ruler', () => {
  it('count bars alone from afar, and number as many as there is room for', () => {
    const marks = rulerMarks(session, 1, [0, 400], 400);
    expect(marks.every(({ kind }) => kind === 'bar')).toBe(true);
    expect(marks.map(({ text }) => text).filter((text) => text !== '')).toEqual([
      '1',
      '17',
      '33',
      '49',
      '65',
      '81',
      '97',
    ]);
  });

  it('name beats where there is room, in the span that is drawn', () => {
    const marks = rulerMarks(session, 60, [240, 480], 400);
    expect(marks.map(({ text }) => text)).toEqual(['2', '2.2', '2.3', '2.4']);
    expect(rulerMarks({ ...session, metreBeats: 6, metreUnit: 8 }, 10, [0, 30], 400).map(({ beat }) => beat)).toEqual([
      0,
    ]);
    expect(rulerMarks({ ...session, metreBeats: 6, metreUnit: 8 }, 20, [0, 30], 400).map(({ beat }) => beat)).toEqual([
      0, 0.5, 1, 1.5, 2, 2.5,
    ]);
  });

  it('count milliseconds behind each beat close up, down to the frame, and never many', () => {
    for (const pixelsPerBeat of [500, 3000, 40000, 1e5, 4e5]) {
      const place = 5.3 * pixelsPerBeat;
      const marks = rulerMarks(session, pixelsPerBeat, [place, place + 3000], 400).filter(
        ({ beat }) => beat * pixelsPerBeat >= place && beat * pixelsPerBeat <= place + 3000,
      );
      expect(marks.length).toBeGreaterThan(3);
      expect(marks.length).toBeLessThan(60);
      for (const { beat, text, kind } of marks) {
        if (kind !== 'part') continue;
        expect((beat % 1) * 500).toBeCloseTo(Number.parseFloat(text.split('+')[1]!), 2);
      }
    }
  });

  it('end where the sheet does', () => {
    expect(rulerMarks(session, 100, [0, 1e6], 8).at(-1)!.beat).toBeLessThan(8);
  });
});
