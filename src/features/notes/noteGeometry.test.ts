import type { Note } from '@/core/session/records/lanes';
import {
  draggedNotes,
  keyAt,
  keyAtY,
  middleKey,
  newNoteAt,
  notesWithin,
  ROW,
  yOfKey,
  type NoteDrag,
} from './noteGeometry';

const D_DORIAN = [2, 4, 5, 7, 9, 11, 0];
const note = (id: string, startBeat: number, key: number, lengthBeats = 1): Note => ({
  id,
  ownerId: 'lead',
  startBeat,
  lengthBeats,
  key,
  velocity: 96,
});

describe('notes on the lines of the key', () => {
  it('lie in the rows of their keys, and places in rows are keys', () => {
    for (const key of [0, 60, 127]) expect(keyAtY(yOfKey(key) + ROW / 2)).toBe(key);
    expect(keyAtY(-50)).toBe(127);
    expect(keyAtY(1e6)).toBe(0);
  });

  it('that are drawn beside the key go to the nearer side of it', () => {
    // F sharp: its upper half is nearer to G, its lower half to F.
    expect(keyAt(yOfKey(66) + 2, D_DORIAN)).toBe(67);
    expect(keyAt(yOfKey(66) + ROW - 2, D_DORIAN)).toBe(65);
    expect(keyAt(yOfKey(66) + 2, null)).toBe(66);
  });

  it('begin on the line of the grid before them', () => {
    expect(newNoteAt(5.9, 1)).toEqual({ startBeat: 5, lengthBeats: 1 });
    expect(newNoteAt(6, 0.5)).toEqual({ startBeat: 6, lengthBeats: 0.5 });
    expect(newNoteAt(5.93, 0)).toEqual({ startBeat: 5.93, lengthBeats: 0.5 });
  });

  it('are moved with the one that is held, which snaps', () => {
    const held = note('a', 1.2, 62);
    const other = note('b', 2.2, 65);
    const drag: NoteDrag = { kind: 'move', notes: [held, other], held, beats: 0.7, keys: 1, grid: 1, scale: D_DORIAN };
    const after = draggedNotes(drag);
    expect(after.map(({ startBeat }) => startBeat!.toFixed(6))).toEqual(['2.000000', '3.000000']);
    // A semitone above D is no note of the key: D it stays, or E it is, never between.
    expect([62, 64]).toContain(after[0]!.key);
    expect(draggedNotes({ ...drag, keys: 1, scale: null })[0]!.key).toBe(63);
    // Up and down alone leaves them where they begin.
    expect(draggedNotes({ ...drag, beats: 0, keys: 2 })[0]).toMatchObject({ startBeat: 1.2, key: 64 });
  });

  it('are made longer to the next line, and never shorter than the grid', () => {
    const held = note('a', 1, 62);
    const drag: NoteDrag = { kind: 'resize', notes: [held], held, beats: 0.4, keys: 0, grid: 0.5, scale: null };
    expect(draggedNotes(drag)[0]!.lengthBeats).toBe(1.5);
    expect(draggedNotes({ ...drag, beats: -5 })[0]!.lengthBeats).toBe(0.5);
  });

  it('are chosen by a rectangle that touches them', () => {
    const notes = [note('a', 0, 60), note('b', 2, 64), note('c', 4, 60, 3)];
    expect(notesWithin(notes, { beat: 2.5, key: 65 }, { beat: 4.5, key: 58 })).toEqual(['b', 'c']);
    expect(notesWithin(notes, { beat: 6.9, key: 60 }, { beat: 9, key: 60 })).toEqual(['c']);
    expect(middleKey(notes)).toBe(62);
    expect(middleKey([])).toBe(60);
  });
});
