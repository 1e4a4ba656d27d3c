import { fireEvent, screen } from '@testing-library/react';
import { drag, renderIn, testStudio } from '../../../test/support/studio';
import type { Note } from '@/core/session/records/lanes';
import { NoteGrid } from './NoteGrid';
import { ROW, yOfKey } from './noteGeometry';

Object.defineProperties(HTMLElement.prototype, { clientWidth: { value: 2000 }, clientHeight: { value: 3000 } });

/** At the middle of a key's row; a beat is 20 pixels. */
const at = (beat: number, key: number): [number, number] => [20 * beat, yOfKey(key) + ROW / 2];
const note = (id: string, startBeat: number, key: number): Note => ({
  id,
  ownerId: 'lead',
  startBeat,
  lengthBeats: 1,
  key,
  velocity: 96,
});

function grid() {
  const test = testStudio(
    [
      { type: 'session.set', values: { keyTonic: 'C', keyMode: 'major' } },
      { type: 'track.add', id: 'lead', name: 'Lead' },
      { type: 'note.add', notes: [note('low', 2, 60), note('high', 4, 67)] },
    ],
    { transport: { heardBeat: 8 } },
  );
  test.store.setState({ pixelsPerBeat: 20, snap: 1, notesFor: 'lead' });
  renderIn(
    test.studio,
    <>
      <div className="timeline-scroll" />
      <NoteGrid ownerId="lead" />
    </>,
  );
  const sheet = screen.getByRole('group', { name: /^Notes on the lines/ });
  const mark = (id: string) => sheet.querySelector(`[data-note="${id}"]`)!;
  const weight = (id: string) => document.querySelector(`.note-weights [data-note="${id}"]`)!;
  const notes = () => test.store.getState().document.notes;
  const place = (id: string) => [notes()[id]!.startBeat, notes()[id]!.key, notes()[id]!.lengthBeats];
  const chosen = () => test.store.getState().noteIds;
  const steps = () => test.store.getState().history.past.map(({ label }) => label);
  const key = (name: string, keys: object = {}) => fireEvent.keyDown(sheet, { key: name, ...keys });
  return { ...test, sheet, mark, weight, notes, place, chosen, steps, key };
}

describe('notes under a pointer', () => {
  it('are moved on the grid along the scale, as one step; with Alt they are free', () => {
    const { mark, place, chosen, steps } = grid();
    // A semitone up would leave C major, and is drawn to the nearest of its notes.
    drag(mark('low'), [at(2.1, 60), at(3.3, 60), at(3.3, 63)]);
    expect([place('low'), chosen(), steps()]).toEqual([[3, 62, 1], ['low'], ['Move notes']]);
    drag(mark('low'), [at(3.1, 62), at(3.6, 63)], 'up', { altKey: true });
    expect(place('low')).toEqual([3.5, 63, 1]);
  });

  it('are lengthened at their ends', () => {
    const { mark, place, steps } = grid();
    drag(mark('low'), [at(2.9, 60), at(4.8, 60)]);
    expect([place('low'), steps()]).toEqual([[2, 60, 3], ['Lengthen notes']]);
  });

  it('are drawn on a free line, as long as the pointer goes', () => {
    const { sheet, notes, steps, chosen } = grid();
    drag(sheet, [at(6.4, 64), at(8.5, 64)]);
    const drawn = Object.values(notes()).find(({ startBeat }) => startBeat === 6)!;
    expect(drawn).toMatchObject({ key: 64, lengthBeats: 3, velocity: 96, ownerId: 'lead' });
    expect([chosen(), steps()]).toEqual([[drawn.id], ['Draw a note']]);
  });

  it.each(['escape', 'cancel'] as const)('that are drawn or moved are as before after %s', (end) => {
    const { sheet, mark, notes, place, steps, chosen, studio } = grid();
    studio.set({ noteIds: ['high'] });
    drag(sheet, [at(6.4, 64), at(8.5, 64)], end);
    expect([Object.keys(notes()).sort(), chosen()]).toEqual([['high', 'low'], ['high']]);
    drag(mark('low'), [at(2.1, 60), at(7, 70)], end);
    studio.editor.settle();
    expect([place('low'), steps()]).toEqual([[2, 60, 1], []]);
    drag(sheet, [at(1, 72), at(6, 55)], end, { shiftKey: true });
    expect(chosen()).toEqual(['low']);
    expect(document.querySelector('.note-box')).toBeNull();
  });

  it('are chosen by a box with Shift and moved together', () => {
    const { sheet, mark, place, chosen } = grid();
    drag(sheet, [at(1, 72), at(6, 55)], 'up', { shiftKey: true });
    expect([...chosen()].sort()).toEqual(['high', 'low']);
    drag(mark('low'), [at(2.1, 60), at(3.1, 60)]);
    expect([place('low'), place('high')]).toEqual([
      [3, 60, 1],
      [5, 67, 1],
    ]);
  });

  it('are weighed in the strip of velocities, within 1 to 127', () => {
    const { weight, notes, steps } = grid();
    drag(weight('low'), [
      [42, 40],
      [42, 30],
    ]);
    expect([notes().low!.velocity, notes().high!.velocity, steps()]).toEqual([116, 96, ['Weigh notes']]);
    drag(weight('low'), [
      [42, 40],
      [42, -200],
    ]);
    expect(notes().low!.velocity).toBe(127);
  });
});

describe('keys of the note grid', () => {
  it('choose, move by the grid and the scale, lengthen and delete', () => {
    const { key, place, chosen, notes } = grid();
    key(']');
    expect(chosen()).toEqual(['low']);
    key('ArrowRight');
    key('ArrowUp');
    expect(place('low')).toEqual([3, 62, 1]);
    key('ArrowUp', { shiftKey: true });
    key('ArrowRight', { altKey: true });
    key('ArrowLeft', { altKey: true });
    key('ArrowLeft', { altKey: true });
    expect(place('low')).toEqual([3, 74, 1]);
    key('Delete');
    expect(Object.keys(notes())).toEqual(['high']);
  });

  it('copy notes to the playhead and behind themselves', () => {
    const { key, notes, chosen } = grid();
    key('a', { ctrlKey: true });
    key('c', { ctrlKey: true });
    key('v', { ctrlKey: true });
    expect(chosen().map((id) => notes()[id]!.startBeat)).toEqual([8, 10]);
    key('d', { ctrlKey: true });
    expect(chosen().map((id) => notes()[id]!.startBeat)).toEqual([11, 13]);
    key('Escape');
    key('Delete');
    expect(Object.keys(notes())).toHaveLength(6);
  });
});
