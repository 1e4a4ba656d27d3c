import { useState, type PointerEvent, type RefObject } from 'react';
import type { Scale } from '@/core/effects/scaleKeys';
import { weightedNotes } from '@/core/session/noteEdits';
import type { Note } from '@/core/session/records/lanes';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { chosenBy } from '../ui/chosenBy';
import { usePointerDrag, type DragPoint } from '../ui/usePointerDrag';
import { draggedNotes, EDGE, keyAt, keyAtY, newNoteAt, notesWithin, ROW, yOfKey } from './noteGeometry';

/** Milliseconds for which a pressed note sounds. */
const TOUCH_MS = 220;
const DRAWN_VELOCITY = 96;
/** Velocity that a pixel up or down makes. */
const VELOCITY_PER_PIXEL = 2;

type Drag =
  | { kind: 'move' | 'resize'; x: number; y: number; held: Note; notes: readonly Note[] }
  | { kind: 'draw'; note: Note; before: readonly string[] }
  | { kind: 'box'; beat: number; key: number; before: readonly string[] }
  | { kind: 'weigh'; y: number; notes: readonly Note[] };

interface Box {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** Notes and layout that drags in the note grid work on. */
export interface NoteHold {
  readonly ownerId: string;
  readonly sheet: RefObject<HTMLElement | null>;
  readonly scroller: RefObject<HTMLElement | null>;
  readonly notes: readonly Note[];
  /** Grid in beats; 0 for none. */
  readonly grid: number;
  /** The scale that notes keep to; null where they are free. */
  readonly scale: Scale | null;
}

/** The note that a mark stands for: marks have their id. */
export function noteAt(notes: readonly Note[], target: EventTarget): Note | undefined {
  const id = (target as HTMLElement).dataset.note;
  return notes.find((note) => note.id === id);
}

/**
 * Drags in the note grid: notes are moved and lengthened, drawn on a free line, chosen by a box with Shift, and weighed
 * in the strip of velocities. Alt leaves grid and scale.
 */
export function useNoteDrag({ ownerId, sheet, scroller, notes, grid, scale }: NoteHold) {
  const studio = useStudio();
  const { pixelsPerBeat, noteIds } = useStudioState(({ pixelsPerBeat, noteIds }) => ({ pixelsPerBeat, noteIds }));
  const [box, setBox] = useState<Box | null>(null);
  const pointOf = ({ clientX, clientY }: Pick<DragPoint, 'clientX' | 'clientY'>) => {
    const { left, top } = sheet.current!.getBoundingClientRect();
    return { x: clientX - left, y: clientY - top };
  };
  const touch = (note: Pick<Note, 'key' | 'velocity'>) => {
    if (studio.engine.playing || studio.engine.state !== 'running') return;
    studio.keys.press(note.key, note.velocity);
    setTimeout(() => studio.keys.release(note.key), TOUCH_MS);
  };
  const isIn = (ids: readonly string[]) => notes.filter(({ id }) => ids.includes(id));

  const beginOnNote = (event: PointerEvent, note: Note): Drag | null => {
    const next = chosenBy(note.id, noteIds, event.shiftKey);
    studio.set({ noteIds: next });
    if (!next.includes(note.id)) return null;
    const { x, y } = pointOf(event);
    const end = (note.startBeat + note.lengthBeats) * pixelsPerBeat;
    touch(note);
    return { kind: end - x <= EDGE ? 'resize' : 'move', x, y, held: note, notes: isIn(next) };
  };
  const beginOnLine = (event: PointerEvent): Drag => {
    // Keys are meant for notes from now on.
    scroller.current!.focus({ preventScroll: true });
    const { x, y } = pointOf(event);
    if (event.shiftKey) return { kind: 'box', beat: x / pixelsPerBeat, key: keyAtY(y), before: noteIds };
    const place = newNoteAt(x / pixelsPerBeat, grid);
    const note: Note = { id: newId(), ownerId, key: keyAt(y, scale), velocity: DRAWN_VELOCITY, ...place };
    studio.editor.preview({ type: 'note.add', notes: [note] }, 'Draw a note');
    studio.set({ noteIds: [note.id] });
    touch(note);
    return { kind: 'draw', note, before: noteIds };
  };

  const move = (drag: Drag, point: DragPoint) => {
    const { x, y } = pointOf(point);
    switch (drag.kind) {
      case 'weigh': {
        const by = Math.round(drag.y - point.clientY) * VELOCITY_PER_PIXEL;
        studio.editor.preview({ type: 'note.set', changes: weightedNotes(drag.notes, by) }, 'Weigh notes');
        return;
      }
      case 'box': {
        const [beat, key] = [x / pixelsPerBeat, keyAtY(y)];
        studio.set({ noteIds: notesWithin(notes, drag, { beat, key }) });
        setBox({
          left: Math.min(drag.beat, beat) * pixelsPerBeat,
          top: yOfKey(Math.max(drag.key, key)),
          width: Math.abs(beat - drag.beat) * pixelsPerBeat,
          height: (Math.abs(key - drag.key) + 1) * ROW,
        });
        return;
      }
      case 'draw': {
        const { note } = drag;
        const drawn = x / pixelsPerBeat - note.startBeat;
        const lengthBeats = Math.max(note.lengthBeats, grid > 0 ? Math.ceil(drawn / grid) * grid : drawn);
        studio.editor.preview({ type: 'note.add', notes: [{ ...note, lengthBeats }] }, 'Draw a note');
        return;
      }
      default: {
        const changes = draggedNotes({
          kind: drag.kind,
          notes: drag.notes,
          held: drag.held,
          beats: (x - drag.x) / pixelsPerBeat,
          keys: Math.round((drag.y - y) / ROW),
          grid: point.altKey ? 0 : grid,
          scale: point.altKey ? null : scale,
        });
        studio.editor.preview({ type: 'note.set', changes }, drag.kind === 'move' ? 'Move notes' : 'Lengthen notes');
      }
    }
  };

  const [begin, dragged] = usePointerDrag<Drag, [part: 'sheet' | 'weights']>({
    begin: (event, part) => {
      const note = noteAt(notes, event.target);
      if (part === 'sheet') return note ? beginOnNote(event, note) : beginOnLine(event);
      if (!note) return null;
      const ids = noteIds.includes(note.id) ? noteIds : [note.id];
      studio.set({ noteIds: ids });
      return { kind: 'weigh', y: event.clientY, notes: isIn(ids) };
    },
    move,
    end: (drag) => {
      if (drag.kind !== 'box') studio.editor.settle();
      setBox(null);
    },
    cancel: (drag) => {
      studio.editor.abandon();
      if ('before' in drag) studio.set({ noteIds: drag.before });
      setBox(null);
    },
  });
  return {
    box,
    onSheetDown: (event: PointerEvent) => begin(event, 'sheet'),
    onWeightDown: (event: PointerEvent) => begin(event, 'weights'),
    isDragging: () => dragged.current !== null,
  };
}
