'use client';

import { useEffect, useLayoutEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { flushSync } from 'react-dom';
import Button from 'react-bootstrap/Button';
import { HIGHEST_KEY, keyName } from '@/core/effects/pitchNames';
import { degreeOf } from '@/core/effects/scaleKeys';
import {
  laterCopies,
  movedNotes,
  noteCommand,
  notesOf,
  spanOf,
  transposedByDegrees,
  weightedNotes,
} from '@/core/session/noteEdits';
import { beatsPerBar, endBeat } from '@/core/session/records/queries';
import type { Note } from '@/core/session/records/lanes';
import { scaleOf } from '@/core/session/scales';
import type { NoteChange } from '@/core/session/commands';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useFrame } from '../ui/useFrame';
import {
  draggedNotes,
  EDGE,
  keyAt,
  keyAtY,
  middleKey,
  newNoteAt,
  notesWithin,
  ROW,
  WEIGHTS,
  yOfKey,
} from './noteGeometry';
import { NoteMark, NoteWeight } from './NoteMarks';
import { useSight } from './useSight';

const KEYS = Array.from({ length: HIGHEST_KEY + 1 }, (_, n) => HIGHEST_KEY - n);
/** How long a note is heard that is taken hold of. */
const TOUCH_MS = 220;

type Drag =
  | { kind: 'move' | 'resize'; x: number; y: number; held: Note; notes: readonly Note[]; document: object }
  | { kind: 'draw'; x: number; note: Note }
  | { kind: 'box'; beat: number; key: number }
  | { kind: 'weigh'; y: number; notes: readonly Note[] };

/** Notes on the lines of the key: draw, choose, move, lengthen, weigh. */
export function NoteGrid({ ownerId }: { readonly ownerId: string }) {
  const studio = useStudio();
  const { document, pixelsPerBeat, noteIds, snapKey, snap } = useStudioState((state) => ({
    document: state.document,
    pixelsPerBeat: state.pixelsPerBeat,
    noteIds: state.noteIds,
    snapKey: state.snapKey,
    snap: state.snap,
  }));
  const scroller = useRef<HTMLDivElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const sheet = useRef<HTMLDivElement>(null);
  const drag = useRef<Drag | null>(null);
  // Notes elsewhere are not drawn.
  const sight = useSight(scroller);
  const [box, setBox] = useState<{ left: number; top: number; width: number; height: number } | null>(null);
  const { session } = document;
  const scale = scaleOf(session);
  const perBar = beatsPerBar(session);
  const grid = snap === 'bar' ? perBar : snap;
  const beats = Math.ceil(Math.max(endBeat(document) / perBar + 4, 16)) * perBar;
  const notes = notesOf(document, ownerId);
  const chosen = new Set(noteIds);
  const inKey = snapKey ? scale : null;

  useLayoutEffect(() => {
    const view = scroller.current!;
    view.scrollTop = yOfKey(middleKey(notesOf(studio.state.document, ownerId))) - view.clientHeight / 2;
  }, [studio, ownerId]);

  // It lies under the timeline, and shows the same beats.
  useEffect(() => {
    const view = scroller.current!;
    const above = window.document.querySelector('.timeline-scroll')!;
    const follow = () => {
      if (view.scrollLeft !== above.scrollLeft) view.scrollLeft = above.scrollLeft;
    };
    const lead = () => {
      if (view.scrollLeft !== above.scrollLeft) above.scrollLeft = view.scrollLeft;
    };
    follow();
    above.addEventListener('scroll', follow);
    view.addEventListener('scroll', lead);
    return () => {
      above.removeEventListener('scroll', follow);
      view.removeEventListener('scroll', lead);
    };
  }, [pixelsPerBeat]);

  useFrame(() => {
    if (playhead.current)
      playhead.current.style.transform = `translateX(${(studio.transport.heardBeat * pixelsPerBeat).toFixed(1)}px)`;
  });

  const change = (changes: readonly NoteChange[], what: string) => {
    const command = noteCommand(studio.state.document, changes);
    if (command) studio.editor.perform(command, what);
  };
  const touch = (note: Pick<Note, 'key' | 'velocity'>) => {
    if (studio.engine.playing || studio.engine.state !== 'running') return;
    studio.keys.press(note.key, note.velocity);
    setTimeout(() => studio.keys.release(note.key), TOUCH_MS);
  };
  const placeOf = (event: PointerEvent) => {
    const rect = sheet.current!.getBoundingClientRect();
    return { x: event.clientX - rect.left, y: event.clientY - rect.top };
  };

  /** Of the marks of notes, which all have their id. */
  const noteAt = (target: EventTarget) => {
    const id = (target as HTMLElement).dataset.note;
    return notes.find((note) => note.id === id);
  };

  const onNoteDown = (event: PointerEvent, note: Note) => {
    const next = event.shiftKey
      ? chosen.has(note.id)
        ? noteIds.filter((id) => id !== note.id)
        : [...noteIds, note.id]
      : chosen.has(note.id)
        ? noteIds
        : [note.id];
    studio.set({ noteIds: next });
    if (!next.includes(note.id)) return;
    sheet.current!.setPointerCapture(event.pointerId);
    const { x, y } = placeOf(event);
    const end = (note.startBeat + note.lengthBeats) * pixelsPerBeat;
    const kind = end - x <= EDGE ? 'resize' : 'move';
    drag.current = { kind, x, y, held: note, notes: notes.filter(({ id }) => next.includes(id)), document };
    touch(note);
  };

  const onWeightDown = (event: PointerEvent) => {
    const note = noteAt(event.target);
    if (!note) return;
    sheet.current!.setPointerCapture(event.pointerId);
    const ids = chosen.has(note.id) ? noteIds : [note.id];
    studio.set({ noteIds: ids });
    drag.current = { kind: 'weigh', y: event.clientY, notes: notes.filter(({ id }) => ids.includes(id)) };
  };

  const onSheetDown = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return;
    const pressed = noteAt(event.target);
    if (pressed) return onNoteDown(event, pressed);
    event.currentTarget.setPointerCapture(event.pointerId);
    // Keys are meant for notes from now on.
    scroller.current!.focus({ preventScroll: true });
    const { x, y } = placeOf(event);
    if (event.shiftKey) {
      drag.current = { kind: 'box', beat: x / pixelsPerBeat, key: keyAtY(y) };
      return;
    }
    const note: Note = {
      id: newId(),
      ownerId,
      key: keyAt(y, inKey),
      velocity: 96,
      ...newNoteAt(x / pixelsPerBeat, grid),
    };
    drag.current = { kind: 'draw', x, note };
    studio.editor.preview({ type: 'note.add', notes: [note] }, 'Draw a note');
    studio.set({ noteIds: [note.id] });
    touch(note);
  };

  const onMove = (event: PointerEvent<HTMLDivElement>) => {
    const now = drag.current;
    if (!now) return;
    const { x, y } = placeOf(event);
    if (now.kind === 'weigh') {
      const by = Math.round(now.y - event.clientY) * 2;
      studio.editor.preview({ type: 'note.set', changes: weightedNotes(now.notes, by) }, 'Weigh notes');
    } else if (now.kind === 'box') {
      const beat = x / pixelsPerBeat;
      const key = keyAtY(y);
      studio.set({ noteIds: notesWithin(notes, { beat: now.beat, key: now.key }, { beat, key }) });
      const [left, top] = [Math.min(now.beat, beat) * pixelsPerBeat, yOfKey(Math.max(now.key, key))];
      setBox({
        left,
        top,
        width: Math.abs(beat - now.beat) * pixelsPerBeat,
        height: (Math.abs(key - now.key) + 1) * ROW,
      });
    } else if (now.kind === 'draw') {
      const length = Math.max(
        now.note.lengthBeats,
        grid > 0
          ? Math.ceil((x / pixelsPerBeat - now.note.startBeat) / grid) * grid
          : x / pixelsPerBeat - now.note.startBeat,
      );
      studio.editor.preview({ type: 'note.add', notes: [{ ...now.note, lengthBeats: length }] }, 'Draw a note');
    } else {
      const free = event.altKey;
      const changes = draggedNotes({
        kind: now.kind,
        notes: now.notes,
        held: now.held,
        beats: (x - now.x) / pixelsPerBeat,
        keys: Math.round((now.y - y) / ROW),
        grid: free ? 0 : grid,
        scale: free ? null : inKey,
      });
      studio.editor.preview({ type: 'note.set', changes }, now.kind === 'move' ? 'Move notes' : 'Lengthen notes');
    }
  };

  const onUp = () => {
    if (drag.current && drag.current.kind !== 'box') studio.editor.settle();
    drag.current = null;
    setBox(null);
  };

  const onKey = (event: KeyboardEvent) => {
    const own = notes.filter(({ id }) => chosen.has(id));
    const mod = event.ctrlKey || event.metaKey;
    const step = grid > 0 ? grid : 0.25;
    const choose = (by: number) => {
      const at = notes.findIndex(({ id }) => id === noteIds.at(-1));
      const next = notes[(at + by + notes.length) % notes.length];
      if (next) {
        flushSync(() => studio.set({ noteIds: [next.id] }));
        sheet.current!.querySelector<HTMLElement>(`[data-note="${next.id}"]`)?.focus();
      }
    };
    const actions: Record<string, () => void> = {
      ArrowLeft: () =>
        change(
          event.altKey
            ? own.map(({ id, lengthBeats }) => ({ id, lengthBeats: Math.max(step, lengthBeats - step) }))
            : movedNotes(own, -step, 0),
          'Move notes',
        ),
      ArrowRight: () =>
        change(
          event.altKey
            ? own.map(({ id, lengthBeats }) => ({ id, lengthBeats: lengthBeats + step }))
            : movedNotes(own, step, 0),
          'Move notes',
        ),
      ArrowUp: () =>
        change(
          event.shiftKey
            ? movedNotes(own, 0, 12)
            : snapKey
              ? transposedByDegrees(own, 1, scale)
              : movedNotes(own, 0, 1),
          'Move notes',
        ),
      ArrowDown: () =>
        change(
          event.shiftKey
            ? movedNotes(own, 0, -12)
            : snapKey
              ? transposedByDegrees(own, -1, scale)
              : movedNotes(own, 0, -1),
          'Move notes',
        ),
      PageUp: () => change(weightedNotes(own, 8), 'Weigh notes'),
      PageDown: () => change(weightedNotes(own, -8), 'Weigh notes'),
      Delete: () => studio.editor.perform({ type: 'note.remove', ids: own.map(({ id }) => id) }, 'Delete notes'),
      Backspace: () => actions.Delete!(),
      '[': () => choose(-1),
      ']': () => choose(1),
      Escape: () => studio.set({ noteIds: [] }),
    };
    const withMod: Record<string, () => void> = {
      a: () => studio.set({ noteIds: notes.map(({ id }) => id) }),
      c: () => studio.set({ noteClipboard: own }),
      x: () => {
        studio.set({ noteClipboard: own });
        actions.Delete!();
      },
      v: () => {
        const { noteClipboard } = studio.state;
        if (noteClipboard.length === 0) return;
        const at = grid > 0 ? Math.round(studio.transport.heardBeat / grid) * grid : studio.transport.heardBeat;
        const copies = laterCopies(noteClipboard, at - spanOf(noteClipboard).from, newId).map((note) => ({
          ...note,
          ownerId,
        }));
        if (studio.editor.perform({ type: 'note.add', notes: copies }, 'Put notes in'))
          studio.set({ noteIds: copies.map(({ id }) => id) });
      },
      d: () => {
        const copies = laterCopies(own, spanOf(own).to - spanOf(own).from, newId);
        if (studio.editor.perform({ type: 'note.add', notes: copies }, 'Duplicate notes'))
          studio.set({ noteIds: copies.map(({ id }) => id) });
      },
    };
    const needs = !['[', ']', 'a', 'v', 'Escape'].includes(event.key);
    const action = mod ? withMod[event.key.toLowerCase()] : actions[event.key];
    if (!action || (needs && own.length === 0)) return;
    event.preventDefault();
    event.stopPropagation();
    action();
  };

  const width = beats * pixelsPerBeat;
  const tabbed = noteIds.at(-1) ?? notes[0]?.id;
  const passing = notes.filter(
    ({ startBeat, lengthBeats }) =>
      startBeat * pixelsPerBeat < sight.right && (startBeat + lengthBeats) * pixelsPerBeat > sight.left,
  );
  const drawn = passing.filter(({ key }) => yOfKey(key) < sight.bottom && yOfKey(key) + ROW > sight.top);
  // What keys are meant for is there wherever it is.
  const meant = notes.find(({ id }) => id === tabbed);
  if (meant && !drawn.includes(meant)) drawn.push(meant);
  return (
    <div
      className="note-scroll"
      ref={scroller}
      tabIndex={0}
      role="region"
      aria-label="Keys and beats"
      onKeyDown={onKey}
    >
      <div className="note-keys" style={{ height: KEYS.length * ROW }}>
        {KEYS.map((key) => {
          const degree = degreeOf(key, scale);
          return (
            <Button
              bsPrefix="note-key"
              key={key}
              tabIndex={-1}
              className={degree === 0 ? 'note-tonic' : degree < 0 ? 'note-beside' : undefined}
              aria-label={`Hear ${keyName(key)}`}
              onPointerDown={() => studio.keys.press(key, 96)}
              onPointerUp={() => studio.keys.release(key)}
              onPointerLeave={() => studio.keys.release(key)}
            >
              {degree >= 0 && <b>{keyName(key)}</b>}
              {degree >= 0 && <small>{degree + 1}</small>}
            </Button>
          );
        })}
      </div>
      <div
        ref={sheet}
        className="note-sheet"
        role="group"
        aria-label={`Notes on the lines of ${session.keyTonic} ${session.keyMode}`}
        style={{ width, height: KEYS.length * ROW }}
        onPointerDown={onSheetDown}
        onFocus={({ target }) => {
          const note = noteAt(target);
          if (note && !chosen.has(note.id) && drag.current === null) studio.set({ noteIds: [note.id] });
        }}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerCancel={() => {
          drag.current = null;
          studio.editor.abandon();
        }}
      >
        {KEYS.map((key) => {
          const degree = degreeOf(key, scale);
          return (
            <i
              key={key}
              className={`note-row ${degree === 0 ? 'note-row-tonic' : degree < 0 ? 'note-row-beside' : ''}`}
              style={{ top: yOfKey(key), height: ROW }}
            />
          );
        })}
        <i className="note-bars" style={{ backgroundSize: `${perBar * pixelsPerBeat}px 100%` }} />
        {drawn.map((note) => (
          <NoteMark
            key={note.id}
            note={note}
            session={session}
            pixelsPerBeat={pixelsPerBeat}
            chosen={chosen.has(note.id)}
            tabbed={note.id === tabbed}
          />
        ))}
        {box && <i className="note-box" style={box} />}
        <div ref={playhead} className="playhead" aria-hidden="true" />
        {notes.length === 0 && (
          <p className="note-hint">Press on a line to draw a note, type a chord, or play by hand.</p>
        )}
      </div>
      <div className="note-weights-head">velocity</div>
      <div className="note-weights" style={{ width, height: WEIGHTS }} onPointerDown={onWeightDown}>
        {passing.map((note) => (
          <NoteWeight key={note.id} note={note} pixelsPerBeat={pixelsPerBeat} chosen={chosen.has(note.id)} />
        ))}
      </div>
    </div>
  );
}
