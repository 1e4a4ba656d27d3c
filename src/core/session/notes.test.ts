import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { changesBetween } from '../engine/planChanges';
import { applyCommand, applyStep, type Command } from './commands';
import { compile } from './compile/compiler';
import { validateDocument } from './document';
import {
  chordNotes,
  laterCopies,
  movedNotes,
  noteCommand,
  notesOf,
  quantisedNotes,
  repeatDistance,
  resizedNotes,
  snappedToScale,
  transposedByDegrees,
  weightedNotes,
} from './noteEdits';
import { newDocument, newModulator } from './records/factories';
import type { Note } from './records/lanes';
import type { SessionDocument } from './records/document';
import { scaleOf } from './scales';

const done = (document: SessionDocument, ...commands: Command[]) =>
  applyCommand(document, { type: 'all', commands }, 'test').document;
const note = (id: string, startBeat: number, key: number, more: Partial<Note> = {}): Note => ({
  id,
  ownerId: 'lead',
  startBeat,
  lengthBeats: 1,
  key,
  velocity: 100,
  ...more,
});
const song = () =>
  done(
    newDocument('Notes'),
    { type: 'session.set', values: { tempoBpm: 120, keyTonic: 'D', keyMode: 'dorian' } },
    { type: 'track.add', id: 'lead', name: 'Lead' },
    { type: 'track.add', id: 'other', name: 'Other' },
    { type: 'insert.add', stripId: 'lead', id: 'synth', effect: 'synth', index: 0 },
    { type: 'note.add', notes: [note('b', 2, 65), note('a', 0, 62), note('c', 2, 60, { velocity: 127 })] },
  );
const played = (document: SessionDocument, insertId = 'synth') =>
  compile(document)
    .strips.flatMap(({ inserts }) => inserts)
    .find(({ id }) => id === insertId)!.notes;

describe('notes of a session', () => {
  it('are played by what stands on their strip, in their order and at their frames', () => {
    const document = song();
    expect(played(document)).toEqual([
      { startFrame: 0, lengthFrames: 24000, key: 62, velocity: 100 / 127 },
      { startFrame: 48000, lengthFrames: 24000, key: 60, velocity: 1 },
      { startFrame: 48000, lengthFrames: 24000, key: 65, velocity: 100 / 127 },
    ]);
    expect(compile(document).endFrame).toBe(72000);
  });

  it('can be another strip’s, or an effect’s own', () => {
    const own = note('own', 1, 40, { ownerId: 'synth' });
    const others = note('others', 3, 41, { ownerId: 'other' });
    const document = done(song(), { type: 'note.add', notes: [own, others] });
    const keys = (from: string | null) =>
      played(done(document, { type: 'insert.notes', id: 'synth', from }))?.map(({ key }) => key);
    expect([keys(null), keys('synth'), keys('other')]).toEqual([[62, 60, 65], [40], [41]]);
    // With what they belong to they go, and what played them plays those of its own strip again.
    const listening = done(document, { type: 'insert.notes', id: 'synth', from: 'other' });
    const without = done(listening, { type: 'strip.remove', id: 'other' });
    expect(without.inserts.synth!.notesFrom).toBeNull();
    expect(without.notes.others).toBeUndefined();
    expect(Object.keys(done(listening, { type: 'insert.remove', id: 'synth' }).notes).sort()).toEqual([
      'a',
      'b',
      'c',
      'others',
    ]);
  });

  it('are refused where nothing is, out of their ranges, and for effects that play none', () => {
    const add = (one: Note) => () => done(song(), { type: 'note.add', notes: [one] });
    expect(add(note('x', 0, 128))).toThrow('key takes 0 to 127, not 128');
    expect(add(note('x', 0, 60, { velocity: 0 }))).toThrow('velocity takes 1 to 127, not 0');
    expect(add(note('x', 0, 60, { ownerId: 'gone' }))).toThrow('which is not there');
    const reverb = done(song(), { type: 'insert.add', stripId: 'lead', id: 'hall', effect: 'reverb', index: 1 });
    expect(() => done(reverb, { type: 'insert.notes', id: 'hall', from: 'other' })).toThrow('plays no notes');
    expect(() => done(song(), { type: 'insert.notes', id: 'synth', from: 'gone' })).toThrow('not there');
  });

  it('are taken back and done again exactly', () => {
    const ids = fc.constantFrom('a', 'b', 'c');
    const command = fc.oneof(
      fc.record({ type: fc.constant('note.remove' as const), ids: fc.uniqueArray(ids, { minLength: 1 }) }),
      fc.record({
        type: fc.constant('note.set' as const),
        changes: fc.array(
          fc.record({ id: ids, key: fc.integer({ min: 0, max: 127 }), startBeat: fc.integer({ min: 0, max: 40 }) }),
        ),
      }),
    );
    fc.assert(
      fc.property(command, (one) => {
        const before = song();
        const { document, step } = applyCommand(before, one, 'test');
        expect(applyStep(document, step.inverse)).toEqual(before);
        expect(applyStep(before, step.forward)).toEqual(document);
      }),
    );
  });

  it('need a new plan for their strip alone', () => {
    const before = song();
    const after = done(before, { type: 'note.set', changes: [{ id: 'a', key: 50 }] });
    expect(changesBetween(compile(before), compile(after))).toBeNull();
    expect(changesBetween(compile(before), compile(song()))).toEqual([]);
  });
});

describe('work on notes', () => {
  const document = song();
  const notes = notesOf(document, 'lead');
  const after = (changes: ReturnType<typeof movedNotes>) => {
    const command = noteCommand(document, changes);
    return notesOf(command ? done(document, command) : document, 'lead');
  };

  it('moves, resizes and weighs them together, within what there is', () => {
    expect(after(movedNotes(notes, -5, 12)).map(({ startBeat, key }) => [startBeat, key])).toEqual([
      [0, 74],
      [2, 72],
      [2, 77],
    ]);
    expect(after(movedNotes(notes, 1.5, 100))[2]).toMatchObject({ startBeat: 3.5, key: 127 });
    expect(after(resizedNotes(notes, -9, 0.25)).every(({ lengthBeats }) => lengthBeats === 0.25)).toBe(true);
    expect(after(weightedNotes(notes, 60)).every(({ velocity }) => velocity === 127)).toBe(true);
    expect(noteCommand(document, movedNotes(notes, 0, 0))).toBeNull();
  });

  it('transposes by degrees of the key and puts strays into it', () => {
    const scale = scaleOf(document.session);
    expect(after(transposedByDegrees(notes, 2, scale)).map(({ key }) => key)).toEqual([65, 64, 69]);
    const astray = done(document, { type: 'note.set', changes: [{ id: 'a', key: 63 }] });
    expect(snappedToScale(notesOf(astray, 'lead'), scale).map(({ key }) => key)).toEqual([62, 60, 65]);
  });

  it('quantises by as much as is asked', () => {
    const late = [note('a', 0.2, 60), note('b', 1.9, 60)];
    expect(quantisedNotes(late, 0.5, 1).map(({ startBeat }) => startBeat)).toEqual([0, 2]);
    expect(quantisedNotes(late, 0.5, 0.5).map(({ startBeat }) => startBeat)).toEqual([0.1, 1.95]);
  });

  it('repeats to the next line of the grid and builds chords by name', () => {
    let n = 0;
    const newId = () => `n${n++}`;
    expect(repeatDistance(notes, 1)).toBe(3);
    expect(repeatDistance([note('a', 0, 60, { lengthBeats: 0.1 })], 0.5)).toBe(0.5);
    expect(laterCopies(notes, 3, newId).map(({ startBeat }) => startBeat)).toEqual([3, 5, 5]);
    const place = { ownerId: 'lead', startBeat: 4, lengthBeats: 2, velocity: 90 };
    expect(chordNotes(' Dm7', place, newId).map(({ key }) => key)).toEqual([50, 53, 57, 60]);
    expect(() => chordNotes('H7', place, newId)).toThrow('"H7" is no chord');
  });
});

describe('a modulator moved by hand', () => {
  it('is a change that needs no new plan, and stays where it has been left', () => {
    const knob = {
      ...newModulator('knob', 'Knob', 'hand'),
      targets: [{ insertId: 'synth', parameter: 'cutoff', depth: 50, polarity: 'both' as const }],
    };
    const before = done(song(), { type: 'modulator.add', modulator: knob });
    const after = done(before, { type: 'modulator.set', id: 'knob', values: { handPart: 0.75 } });
    expect(changesBetween(compile(before), compile(after))).toEqual([{ kind: 'hand', id: 'knob', part: 0.75 }]);
    expect(() => done(after, { type: 'modulator.set', id: 'knob', values: { controller: 128 } })).toThrow('0 to 127');
  });
});

describe('documents of version 7', () => {
  it('gain notes, and sound the same', () => {
    const old = JSON.parse(readFileSync('test/fixtures/session-7.json', 'utf8')) as SessionDocument;
    const document = validateDocument(structuredClone(old));
    expect(document.notes).toEqual({});
    for (const insert of Object.values(document.inserts)) {
      const values = Object.fromEntries(
        Object.entries(old.inserts[insert.id]!.values).filter(([id]) => id !== 'decayCurve'),
      );
      expect(insert).toMatchObject({ ...old.inserts[insert.id], values, notesFrom: null });
    }
    const prints = Object.values(document.prints).flatMap(({ recipe }) =>
      recipe.kind === 'swell' && recipe.space.kind === 'own' ? recipe.space.inserts : [],
    );
    for (const insert of prints) expect(insert.notesFrom).toBeNull();
    expect(
      compile(document)
        .strips.flatMap(({ inserts }) => inserts)
        .some(({ notes }) => notes),
    ).toBe(false);
  });
});
