import { HIGHEST_KEY, LOWEST_KEY } from '@/core/effects/pitchNames';
import { degreeOf, nearestInScale, type Scale } from '@/core/effects/scaleKeys';
import { clamp } from '@/core/math/clamp';
import { movedNotes, resizedNotes } from '@/core/session/noteEdits';
import type { NoteChange } from '@/core/session/commands';
import type { Note } from '@/core/session/records/lanes';
import { snapTo } from '../ui/music';

/** A key's row and the strip of velocities, in pixels. */
export const ROW = 15;
export const WEIGHTS = 46;
/** The shortest a note is drawn, and where its end can be taken hold of. */
export const SHORTEST = 5;
export const EDGE = 6;
/** Beats of a new note where nothing snaps. */
const PLAIN_LENGTH = 0.5;

export const yOfKey = (key: number): number => (HIGHEST_KEY - key) * ROW;
export const keyAtY = (y: number): number => clamp(LOWEST_KEY, HIGHEST_KEY, HIGHEST_KEY - Math.floor(y / ROW));

/** The key that a place stands for, in the scale where notes keep to it. */
export function keyAt(y: number, scale: Scale | null): number {
  const key = keyAtY(y);
  if (!scale || degreeOf(key, scale) >= 0) return key;
  // The nearest by the pointer: the upper or the lower half of a row beside the scale.
  const above = y / ROW - Math.floor(y / ROW) < 0.5;
  return clamp(LOWEST_KEY, HIGHEST_KEY, nearestInScale(above ? key + 0.4 : key - 0.4, scale));
}

/** A note as it begins where somebody presses. */
export function newNoteAt(beat: number, grid: number): Pick<Note, 'startBeat' | 'lengthBeats'> {
  const startBeat = grid > 0 ? Math.floor(beat / grid + 1e-9) * grid : beat;
  return { startBeat: Math.max(0, startBeat), lengthBeats: grid > 0 ? grid : PLAIN_LENGTH };
}

export interface NoteDrag {
  readonly kind: 'move' | 'resize';
  readonly notes: readonly Note[];
  /** The one under the pointer. */
  readonly held: Note;
  readonly beats: number;
  readonly keys: number;
  readonly grid: number;
  readonly scale: Scale | null;
}

/** Changes made by a drag of notes: the held one snaps, the others keep their distance to it. */
export function draggedNotes({ kind, notes, held, beats, keys, grid, scale }: NoteDrag): NoteChange[] {
  if (kind === 'resize') {
    const end = snapTo(held.startBeat + held.lengthBeats + beats, grid);
    const least = grid > 0 ? Math.min(grid, held.lengthBeats) : 1 / 32;
    return resizedNotes(notes, Math.max(least, end - held.startBeat) - held.lengthBeats, least);
  }
  const start = beats === 0 ? held.startBeat : snapTo(held.startBeat + beats, grid);
  const wanted = clamp(LOWEST_KEY, HIGHEST_KEY, held.key + keys);
  const key = keys !== 0 && scale ? nearestInScale(wanted, scale) : wanted;
  return movedNotes(notes, start - held.startBeat, key - held.key);
}

/** Notes that touch a rectangle of beats and keys. */
export function notesWithin(
  notes: readonly Note[],
  from: { beat: number; key: number },
  to: { beat: number; key: number },
): string[] {
  const [first, last] = [Math.min(from.beat, to.beat), Math.max(from.beat, to.beat)];
  const [low, high] = [Math.min(from.key, to.key), Math.max(from.key, to.key)];
  return notes
    .filter(
      ({ startBeat, lengthBeats, key }) =>
        key >= low && key <= high && startBeat < last && startBeat + lengthBeats > first,
    )
    .map(({ id }) => id);
}

/** The key to have in the middle: of the notes there are, or C4. */
export function middleKey(notes: readonly Note[]): number {
  if (notes.length === 0) return 60;
  const keys = notes.map(({ key }) => key);
  return Math.round((Math.min(...keys) + Math.max(...keys)) / 2);
}
