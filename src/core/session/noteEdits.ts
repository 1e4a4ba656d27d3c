import { readChord } from '../effects/chords';
import { HIGHEST_KEY, LOWEST_KEY } from '../effects/pitchNames';
import { keyByDegrees, nearestInScale, type Scale } from '../effects/scaleKeys';
import { KinetikonError } from '../errors';
import { clamp } from '../math/clamp';
import type { Command, NoteChange } from './commands';
import { SHORTEST_NOTE_BEATS, type Note } from './records/lanes';
import type { SessionDocument } from './records/document';

/** Edits of notes. Each returns a command and changes nothing itself. */

const keyWithin = (key: number) => clamp(LOWEST_KEY, HIGHEST_KEY, key);

/** Notes of a strip or an effect, by their beginnings. */
export function notesOf(document: SessionDocument, ownerId: string): Note[] {
  return Object.values(document.notes)
    .filter((note) => note.ownerId === ownerId)
    .sort((a, b) => a.startBeat - b.startBeat || a.key - b.key);
}

/** Start of the first note and end of the last, in beats. */
export function spanOf(notes: readonly Note[]): { from: number; to: number } {
  return {
    from: Math.min(...notes.map(({ startBeat }) => startBeat)),
    to: Math.max(...notes.map(({ startBeat, lengthBeats }) => startBeat + lengthBeats)),
  };
}

/** Moves notes together; none goes before the session's beginning or off the keys. */
export function movedNotes(notes: readonly Note[], beats: number, keys: number): NoteChange[] {
  const back = Math.max(beats, -spanOf(notes).from);
  const lowest = Math.min(...notes.map(({ key }) => key));
  const highest = Math.max(...notes.map(({ key }) => key));
  const by = clamp(LOWEST_KEY - lowest, HIGHEST_KEY - highest, keys);
  return notes.map(({ id, startBeat, key }) => ({ id, startBeat: startBeat + back, key: key + by }));
}

/** Makes notes longer or shorter by as much each. */
export function resizedNotes(notes: readonly Note[], beats: number, shortest = SHORTEST_NOTE_BEATS): NoteChange[] {
  return notes.map(({ id, lengthBeats }) => ({
    id,
    lengthBeats: Math.max(Math.min(lengthBeats, shortest), lengthBeats + beats),
  }));
}

/** Plays notes harder or softer by as much each. */
export function weightedNotes(notes: readonly Note[], by: number): NoteChange[] {
  return notes.map(({ id, velocity }) => ({ id, velocity: clamp(1, 127, Math.round(velocity + by)) }));
}

/** Moves notes by steps of the scale. */
export function transposedByDegrees(notes: readonly Note[], degrees: number, scale: Scale): NoteChange[] {
  return notes.map(({ id, key }) => ({ id, key: keyWithin(keyByDegrees(key, degrees, scale)) }));
}

/** Puts keys that are beside the scale on its nearest ones. */
export function snappedToScale(notes: readonly Note[], scale: Scale): NoteChange[] {
  return notes.map(({ id, key }) => ({ id, key: keyWithin(nearestInScale(key, scale)) }));
}

/** Brings beginnings nearer to a grid: all the way at a strength of 1. */
export function quantisedNotes(notes: readonly Note[], gridBeats: number, strength: number): NoteChange[] {
  return notes.map(({ id, startBeat }) => {
    const target = Math.round(startBeat / gridBeats) * gridBeats;
    return { id, startBeat: startBeat + strength * (target - startBeat) };
  });
}

/** Copies of notes, as many beats later. */
export function laterCopies(notes: readonly Note[], beats: number, newId: () => string): Note[] {
  return notes.map((note) => ({ ...note, id: newId(), startBeat: note.startBeat + beats }));
}

/** Distance at which notes are repeated, in beats: their span, rounded up to the grid. */
export function repeatDistance(notes: readonly Note[], gridBeats: number): number {
  const { from, to } = spanOf(notes);
  return Math.max(gridBeats, Math.ceil((to - from) / gridBeats - 1e-6) * gridBeats);
}

/**
 * A chord by its name as notes.
 * @throws KinetikonError session.command, with names that are taken
 */
export function chordNotes(
  name: string,
  place: Pick<Note, 'ownerId' | 'startBeat' | 'lengthBeats' | 'velocity'>,
  newId: () => string,
): Note[] {
  const keys = readChord(name.trim());
  if (!keys) {
    throw new KinetikonError('session.command', `"${name}" is no chord.`, {
      kept: 'Nothing was changed.',
      next: 'Names such as Dm7, Bb, F#sus4 or C/E are taken.',
    });
  }
  return keys.map((key) => ({ ...place, id: newId(), key }));
}

/** One command for changes of notes that change anything; null when none does. */
export function noteCommand(document: SessionDocument, changes: readonly NoteChange[]): Command | null {
  const real = changes.filter(({ id, ...values }) => {
    const note = document.notes[id];
    return note && Object.entries(values).some(([name, value]) => note[name as keyof Note] !== value);
  });
  return real.length === 0 ? null : { type: 'note.set', changes: real };
}
