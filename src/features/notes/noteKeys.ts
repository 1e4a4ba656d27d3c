import type { KeyboardEvent, RefObject } from 'react';
import { flushSync } from 'react-dom';
import type { Scale } from '@/core/effects/scaleKeys';
import type { NoteChange } from '@/core/session/commands';
import {
  laterCopies,
  movedNotes,
  noteCommand,
  spanOf,
  transposedByDegrees,
  weightedNotes,
} from '@/core/session/noteEdits';
import type { Note } from '@/core/session/records/lanes';
import { newId } from '../session/newId';
import { useStudio } from '../session/StudioContext';

/** Beats that a note is moved by where nothing snaps. */
const FREE_STEP = 0.25;
const OCTAVE = 12;
const VELOCITY_STEP = 8;

interface Props {
  readonly ownerId: string;
  readonly sheet: RefObject<HTMLElement | null>;
  readonly notes: readonly Note[];
  /** Grid in beats; 0 for none. */
  readonly grid: number;
  readonly scale: Scale;
  /** Notes keep to the scale. */
  readonly snapKey: boolean;
}

/** Keys of the note grid: moving, lengthening, weighing, choosing, copying and deleting notes. */
export function useNoteKeys({ ownerId, sheet, notes, grid, scale, snapKey }: Props): (event: KeyboardEvent) => void {
  const studio = useStudio();
  const change = (changes: readonly NoteChange[], what: string) => {
    const command = noteCommand(studio.state.document, changes);
    if (command) studio.editor.perform(command, what);
  };
  const choose = (by: 1 | -1) => {
    const at = notes.findIndex(({ id }) => id === studio.state.noteIds.at(-1));
    const next = notes[(at + by + notes.length) % notes.length];
    if (!next) return;
    flushSync(() => studio.set({ noteIds: [next.id] }));
    sheet.current!.querySelector<HTMLElement>(`[data-note="${next.id}"]`)?.focus();
  };
  const add = (copies: readonly Note[], what: string) => {
    if (studio.editor.perform({ type: 'note.add', notes: copies }, what))
      studio.set({ noteIds: copies.map(({ id }) => id) });
  };
  const paste = () => {
    const { noteClipboard } = studio.state;
    if (noteClipboard.length === 0) return;
    const { heardBeat } = studio.transport;
    const at = grid > 0 ? Math.round(heardBeat / grid) * grid : heardBeat;
    const copies = laterCopies(noteClipboard, at - spanOf(noteClipboard).from, newId);
    add(
      copies.map((note) => ({ ...note, ownerId })),
      'Put notes in',
    );
  };

  return (event) => {
    const own = notes.filter(({ id }) => studio.state.noteIds.includes(id));
    const step = grid > 0 ? grid : FREE_STEP;
    const across = (way: 1 | -1) => {
      const lengthened = () =>
        own.map(({ id, lengthBeats }) => ({ id, lengthBeats: Math.max(step, lengthBeats + way * step) }));
      change(event.altKey ? lengthened() : movedNotes(own, way * step, 0), 'Move notes');
    };
    const up = (way: 1 | -1) => {
      if (event.shiftKey) change(movedNotes(own, 0, way * OCTAVE), 'Move notes');
      else change(snapKey ? transposedByDegrees(own, way, scale) : movedNotes(own, 0, way), 'Move notes');
    };
    const remove = () => studio.editor.perform({ type: 'note.remove', ids: own.map(({ id }) => id) }, 'Delete notes');
    const copy = () => studio.set({ noteClipboard: own });
    const onOwn: Record<string, () => void> = {
      ArrowLeft: () => across(-1),
      ArrowRight: () => across(1),
      ArrowUp: () => up(1),
      ArrowDown: () => up(-1),
      PageUp: () => change(weightedNotes(own, VELOCITY_STEP), 'Weigh notes'),
      PageDown: () => change(weightedNotes(own, -VELOCITY_STEP), 'Weigh notes'),
      Delete: remove,
      Backspace: remove,
    };
    const keys: Record<string, () => void> = {
      '[': () => choose(-1),
      ']': () => choose(1),
      Escape: () => studio.set({ noteIds: [] }),
      ...(own.length > 0 && onOwn),
    };
    const withControl: Record<string, () => void> = {
      a: () => studio.set({ noteIds: notes.map(({ id }) => id) }),
      v: paste,
      ...(own.length > 0 && {
        c: copy,
        x: () => (copy(), remove()),
        d: () => add(laterCopies(own, spanOf(own).to - spanOf(own).from, newId), 'Duplicate notes'),
      }),
    };
    const act = event.ctrlKey || event.metaKey ? withControl[event.key.toLowerCase()] : keys[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
}
