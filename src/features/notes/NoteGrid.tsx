'use client';

import { useEffect, useLayoutEffect, useRef, type RefObject } from 'react';
import Button from 'react-bootstrap/Button';
import { HIGHEST_KEY, keyName } from '@/core/effects/pitchNames';
import { degreeOf, type Scale } from '@/core/effects/scaleKeys';
import { notesOf } from '@/core/session/noteEdits';
import { beatsPerBar, endBeat } from '@/core/session/records/queries';
import { scaleOf } from '@/core/session/scales';
import { gridOf } from '../session/snap';
import { useStudio, useStudioState } from '../session/StudioContext';
import { writeStyle } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';
import { noteAt, useNoteDrag, type NoteHold } from './noteDrag';
import { middleKey, ROW, WEIGHTS, yOfKey } from './noteGeometry';
import { useNoteKeys } from './noteKeys';
import { NoteMark, NoteWeight } from './NoteMarks';
import { useSight } from './useSight';

const KEYS = Array.from({ length: HIGHEST_KEY + 1 }, (_, n) => HIGHEST_KEY - n);
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
  // Notes elsewhere are not drawn.
  const sight = useSight(scroller);
  const { session } = document;
  const scale = scaleOf(session);
  const perBar = beatsPerBar(session);
  const grid = gridOf(snap, document);
  const beats = Math.ceil(Math.max(endBeat(document) / perBar + 4, 16)) * perBar;
  const notes = notesOf(document, ownerId);
  const chosen = new Set(noteIds);
  const inKey = snapKey ? scale : null;

  useLayoutEffect(() => {
    const view = scroller.current!;
    view.scrollTop = yOfKey(middleKey(notesOf(studio.state.document, ownerId))) - view.clientHeight / 2;
  }, [studio, ownerId]);

  useSharedScroll(scroller, pixelsPerBeat);
  const hold: NoteHold = { ownerId, sheet, scroller, notes, grid, scale: inKey };
  const { onSheetDown, onWeightDown, isDragging, box } = useNoteDrag(hold);
  const onKey = useNoteKeys({ ownerId, sheet, notes, grid, scale, snapKey });

  useFrame(() => {
    const x = studio.transport.heardBeat * pixelsPerBeat;
    writeStyle(playhead.current, 'transform', `translateX(${x.toFixed(1)}px)`);
  });

  const width = beats * pixelsPerBeat;
  const tabbed = noteIds.at(-1) ?? notes[0]?.id;
  const passing = notes.filter(
    ({ startBeat, lengthBeats }) =>
      startBeat * pixelsPerBeat < sight.right && (startBeat + lengthBeats) * pixelsPerBeat > sight.left,
  );
  const drawn = passing.filter(({ key }) => yOfKey(key) < sight.bottom && yOfKey(key) + ROW > sight.top);
  // The note that keys work on is drawn wherever it is.
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
      <KeyColumn scale={scale} />
      <div
        ref={sheet}
        className="note-sheet"
        role="group"
        aria-label={`Notes on the lines of ${session.keyTonic} ${session.keyMode}`}
        style={{ width, height: KEYS.length * ROW }}
        onPointerDown={onSheetDown}
        onFocus={({ target }) => {
          const note = noteAt(notes, target);
          if (note && !chosen.has(note.id) && !isDragging()) studio.set({ noteIds: [note.id] });
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

/** The keys at the left: the degrees of the scale by name, each heard when it is pressed. */
function KeyColumn({ scale }: { readonly scale: Scale }) {
  const studio = useStudio();
  return (
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
  );
}

/** The grid lies under the timeline and shows the same beats: scrolling one scrolls the other. */
function useSharedScroll(scrollerRef: RefObject<HTMLElement | null>, pixelsPerBeat: number): void {
  useEffect(() => {
    const view = scrollerRef.current!;
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
  }, [scrollerRef, pixelsPerBeat]);
}
