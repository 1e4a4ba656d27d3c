'use client';

import { Fragment, useEffect, useLayoutEffect, useMemo, useRef, useState, type DragEvent } from 'react';
import { flushSync } from 'react-dom';
import { FilePlus2, ZoomIn, ZoomOut } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Dropdown from 'react-bootstrap/Dropdown';
import Form from 'react-bootstrap/Form';
import { beatsPerBar, channels } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import type { Lane } from '@/core/session/records/lanes';
import { lanesInOrder, stripIdOfOwner } from '@/core/session/lanes';
import type { Row, RowSize, Snap } from '../session/state';
import { newId } from '../session/newId';
import { useShortcut } from '../session/shortcuts';
import { addSection, deleteLoopTime, insertBarAtPlayhead, insertLoopTime } from '../session/timeWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { ACCEPTED_SOUNDS } from '@/core/formats/soundFormats';
import { FilePicker } from '../ui/FilePicker';
import { useFrame } from '../ui/useFrame';
import { useScrollTogether } from '../ui/useScrollTogether';
import { snapTo } from '../ui/music';
import { BeatRuler } from './BeatRuler';
import { FirstSteps } from './FirstSteps';
import { ClipBar } from './ClipBar';
import { ClipView } from './ClipView';
import { gridOf, laneHeight, shownBeats } from './geometry';
import { LaneBar } from './LaneBar';
import { LANE_HEIGHT } from './laneSheet';
import { LaneView } from './LaneView';
import { RowNotes } from './RowNotes';
import { Sections } from './Sections';

/** Sections and beat ruler above the lanes, in pixels. */
const HEAD_HEIGHT = 46;
/** Rows of returns and of the main output, which have no clips. */
const SHORT_LANE = 34;
const ROW_HEIGHTS = { low: 44, tall: 120 } as const;
const ROW_SIZES = { fit: 'to fit', low: 'low', tall: 'tall' } as const;
/** The names of keys stand to the left of open notes, which begin at the same beat: see notes.css. */
const GUTTER = 58;
const CLOSEST = 400;
const FARTHEST = 2;

const SNAPS: readonly (readonly [string, Snap, string])[] = [
  ['bar', 'bar', 'bar'],
  ['1', 1, '1/4 note'],
  ['0.5', 0.5, '1/8 note'],
  ['0.25', 0.25, '1/16 note'],
  ['0', 0, 'off'],
];

/** Clips on the beat grid, a lane for each track. */
export function Timeline() {
  const studio = useStudio();
  const { document, pixelsPerBeat, stripId, clipIds, snap, laneId, rowSize, lanesOpen, notesFor } = useStudioState(
    (state) => ({
      document: state.document,
      pixelsPerBeat: state.pixelsPerBeat,
      stripId: state.stripId,
      clipIds: state.clipIds,
      snap: state.snap,
      laneId: state.laneId,
      rowSize: state.rowSize,
      lanesOpen: state.lanesOpen,
      notesFor: state.notesFor,
    }),
  );
  const scroller = useRef<HTMLDivElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const files = useRef<HTMLInputElement>(null);
  const [dropping, setDropping] = useState(false);
  const [available, setAvailable] = useState(0);
  const lanes = useMemo(() => {
    const byStrip = new Map<string, Lane[]>();
    for (const one of Object.values(document.lanes)) {
      const strip = stripIdOfOwner(document, one.ownerId);
      if (strip !== undefined) byStrip.set(strip, [...(byStrip.get(strip) ?? []), one]);
    }
    for (const [strip, some] of byStrip) byStrip.set(strip, lanesInOrder(document, some));
    return byStrip;
  }, [document]);
  const lanesOf = (strip: string) => lanes.get(strip) ?? [];
  const beats = shownBeats(document);
  const perBar = beatsPerBar(document.session);
  const width = beats * pixelsPerBeat;
  const gutter = notesFor === null ? 0 : GUTTER;
  const { trackIds, loopOn } = document.session;
  const others = [...channels(document).filter((strip) => document.returns[strip.id]), document.main];
  const shownLanes = (id: string) => (id === stripId || lanesOpen.includes(id) ? lanesOf(id) : []);
  const shown = [...trackIds, ...others.map(({ id }) => id)].reduce((sum, id) => sum + shownLanes(id).length, 0);
  const taken = others.length * SHORT_LANE + shown * LANE_HEIGHT;
  const lane = rowSize === 'fit' ? laneHeight(available - taken, trackIds.length) : ROW_HEIGHTS[rowSize];
  const rows = [...trackIds, ...others.map(({ id }) => id)].map((id): Row => {
    const height = document.tracks[id] ? lane : SHORT_LANE;
    return { stripId: id, height, whole: height + shownLanes(id).length * LANE_HEIGHT, lanes: lanesOf(id).length };
  });
  const told = JSON.stringify(rows);
  useLayoutEffect(() => {
    studio.set({ rows: JSON.parse(told) as Row[] });
  }, [studio, told]);
  useScrollTogether(scroller);

  useFrame(() => {
    const box = scroller.current;
    if (!playhead.current || !box) return;
    const x = studio.transport.heardBeat * studio.state.pixelsPerBeat;
    const view = box.clientWidth - gutter;
    playhead.current.style.transform = `translateX(${x.toFixed(1)}px)`;
    if (studio.engine.playing && (x > box.scrollLeft + view - 20 || x < box.scrollLeft))
      box.scrollLeft = Math.max(0, x - 60);
  });

  /** Zooms around a place in the view: the pointer, or the playhead when it is in sight. */
  const zoom = (factor: number, at?: number) => {
    const box = scroller.current;
    if (!box) return;
    const before = studio.state.pixelsPerBeat;
    const next = Math.max(FARTHEST, Math.min(CLOSEST, before * factor));
    const playheadAt = gutter + studio.transport.heardBeat * before - box.scrollLeft;
    const anchor = at ?? (playheadAt >= 0 && playheadAt <= box.clientWidth ? playheadAt : box.clientWidth / 2);
    const beat = (box.scrollLeft + anchor - gutter) / before;
    flushSync(() => studio.set({ pixelsPerBeat: next }));
    box.scrollLeft = gutter + beat * next - anchor;
  };
  const fit = () => {
    const box = scroller.current!;
    const pixels = Math.max(FARTHEST, (box.clientWidth - gutter - 16) / (beats - 3 * perBar));
    studio.set({ pixelsPerBeat: pixels, fittedAt: pixels });
    box.scrollLeft = 0;
  };
  const zoomLatest = useRef(zoom);
  const fitLatest = useRef(fit);
  useEffect(() => {
    zoomLatest.current = zoom;
    fitLatest.current = fit;
  });
  useEffect(() => {
    const box = scroller.current!;
    const onWheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      zoomLatest.current(Math.exp(-event.deltaY * 0.002), event.clientX - box.getBoundingClientRect().left);
    };
    // Until somebody zooms, everything is shown, however wide the sheet comes to be.
    const resized = new ResizeObserver(() => {
      setAvailable(box.clientHeight - HEAD_HEIGHT);
      if (studio.state.pixelsPerBeat === studio.state.fittedAt) fitLatest.current();
    });
    box.addEventListener('wheel', onWheel, { passive: false });
    resized.observe(box);
    return () => {
      box.removeEventListener('wheel', onWheel);
      resized.disconnect();
    };
  }, [studio]);

  // And so it is when a step has made the session longer or shorter; not while something is dragged.
  const steps = useStudioState(({ history }) => history);
  const fitted = useRef(beats);
  useEffect(() => {
    if (fitted.current === beats) return;
    fitted.current = beats;
    if (studio.state.pixelsPerBeat === studio.state.fittedAt) fitLatest.current();
    // Only a step that is done counts.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [studio, steps]);

  const remove = () =>
    clipIds.length > 0 && studio.editor.perform({ type: 'clip.remove', ids: clipIds }, 'Delete clips');
  const duplicate = () => {
    const copies = clipIds.map((id) => ({ id, newId: newId() }));
    if (copies.length > 0 && studio.editor.perform({ type: 'clip.duplicate', copies }, 'Duplicate clips'))
      studio.set({ clipIds: copies.map((copy) => copy.newId) });
  };
  const split = () => {
    const atBeat = studio.transport.heardBeat;
    const commands = clipIds.map((id) => ({ type: 'clip.split' as const, id, atBeat, newId: newId() }));
    if (commands.length > 0) studio.editor.perform({ type: 'all', commands }, 'Split clips');
  };
  useShortcut('remove', remove);
  useShortcut('duplicate', duplicate);
  useShortcut('split', split);
  useShortcut('chooseNone', () => studio.set({ clipIds: [] }));
  useShortcut('zoomIn', () => zoom(1.3));
  useShortcut('zoomOut', () => zoom(1 / 1.3));

  const dropAt = (event: DragEvent) => {
    const box = scroller.current!.getBoundingClientRect();
    const beat = (event.clientX - box.left - gutter + scroller.current!.scrollLeft) / pixelsPerBeat;
    const lane = (event.target as HTMLElement).closest<HTMLElement>('[data-track]');
    return { beat: Math.max(0, snapTo(beat, gridOf(snap, document))), trackId: lane?.dataset.track ?? null };
  };

  const chosen = clipIds.length === 1 ? document.clips[clipIds[0]!] : undefined;
  const chosenOnes = clipIds.length === 0;
  const openLane = laneId === null ? undefined : document.lanes[laneId];
  return (
    <div
      className={`timeline ${dropping ? 'timeline-dropping' : ''}`}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return;
        event.preventDefault();
        setDropping(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setDropping(false)}
      onDrop={(event) => {
        event.preventDefault();
        setDropping(false);
        const { beat, trackId } = dropAt(event);
        void studio.imports.importFiles([...event.dataTransfer.files], beat, trackId);
      }}
    >
      <div className="timeline-tools" role="toolbar" aria-label="Timeline tools">
        <Button variant="line" onClick={() => files.current!.click()}>
          <FilePlus2 size={13} aria-hidden="true" /> Bring in sound
        </Button>
        <FilePicker
          ref={files}
          label="Sound files"
          accept={ACCEPTED_SOUNDS}
          multiple
          onPick={(list) =>
            void studio.imports.importFiles(list, snapTo(studio.transport.heardBeat, gridOf(snap, document)), null)
          }
        />
        <span className="tool-gap" />
        <Button variant="plain" disabled={chosenOnes} title="Split at the playhead: /" onClick={split}>
          Split
        </Button>
        <Button variant="plain" disabled={chosenOnes} title="Duplicate: Ctrl+D" onClick={duplicate}>
          Duplicate
        </Button>
        <Button variant="plain" disabled={chosenOnes} title="Delete: Delete" onClick={remove}>
          Delete
        </Button>
        <Dropdown>
          <Dropdown.Toggle variant="plain" bsPrefix="preset-toggle">
            Time ▾
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item as="button" type="button" onClick={() => addSection(studio)}>
              Add a section at the playhead’s bar
            </Dropdown.Item>
            <Dropdown.Item as="button" type="button" onClick={() => insertBarAtPlayhead(studio)}>
              Insert a bar at the playhead
            </Dropdown.Item>
            <Dropdown.Item as="button" type="button" disabled={!loopOn} onClick={() => insertLoopTime(studio)}>
              Insert the loop’s length at its start
            </Dropdown.Item>
            <Dropdown.Item as="button" type="button" disabled={!loopOn} onClick={() => deleteLoopTime(studio)}>
              Delete the time of the loop
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
        <Button
          variant="plain"
          aria-pressed={notesFor !== null}
          disabled={stripId === MAIN_ID}
          title="Notes of the chosen track, on the lines of the key"
          onClick={() => studio.set({ notesFor: notesFor === null ? stripId : null, noteIds: [] })}
        >
          Notes
        </Button>
        <span className="tool-gap" />
        <label className="tool-choice">
          snap
          <Form.Select
            aria-label="Snap"
            value={String(snap)}
            onChange={(event) => studio.set({ snap: SNAPS.find(([id]) => id === event.target.value)![1] })}
          >
            {SNAPS.map(([id, , name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Form.Select>
        </label>
        <label className="tool-choice">
          rows
          <Form.Select
            aria-label="Height of rows"
            value={rowSize}
            onChange={(event) => studio.set({ rowSize: event.target.value as RowSize })}
          >
            {Object.entries(ROW_SIZES).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Form.Select>
        </label>
        <Button variant="icon" aria-label="Zoom out" title="Zoom out: -" onClick={() => zoom(1 / 1.5)}>
          <ZoomOut size={15} aria-hidden="true" />
        </Button>
        <Button variant="icon" aria-label="Zoom in" title="Zoom in: + or Ctrl and wheel" onClick={() => zoom(1.5)}>
          <ZoomIn size={15} aria-hidden="true" />
        </Button>
        <Button variant="plain" title="Show everything" onClick={fit}>
          Fit
        </Button>
      </div>
      <div className="timeline-scroll" ref={scroller} tabIndex={0} role="region" aria-label="Tracks over time">
        <div
          className="timeline-sheet"
          style={{ width, marginLeft: gutter }}
          onPointerDown={() => studio.set({ clipIds: [], laneId: null, pointIndices: [] })}
        >
          <div className="timeline-head" onPointerDown={(event) => event.stopPropagation()}>
            <Sections />
            <BeatRuler beats={beats} />
          </div>
          {trackIds.map((id) => (
            <Fragment key={id}>
              <div
                className={`lane ${id === stripId ? 'lane-selected' : ''}`}
                data-track={id}
                style={{ height: lane, backgroundSize: `${perBar * pixelsPerBeat}px 100%` }}
                onPointerDown={() => studio.selection.selectStrip(id)}
              >
                <RowNotes stripId={id} height={lane} />
                {Object.values(document.clips)
                  .filter((clip) => clip.trackId === id)
                  .map((clip) => (
                    <ClipView key={clip.id} clip={clip} lane={lane} frozen={document.tracks[id]!.frozen !== null} />
                  ))}
              </div>
              {shownLanes(id).map((one) => (
                <LaneView key={one.id} lane={one} width={width} />
              ))}
            </Fragment>
          ))}
          {others.map((strip) => (
            <Fragment key={strip.id}>
              <div
                className={`lane lane-short lane-${strip.id === MAIN_ID ? 'main' : 'wet'} ${strip.id === stripId ? 'lane-selected' : ''}`}
                style={{ height: SHORT_LANE, backgroundSize: `${perBar * pixelsPerBeat}px 100%` }}
                onPointerDown={() => studio.selection.selectStrip(strip.id)}
              >
                <RowNotes stripId={strip.id} height={SHORT_LANE} />
              </div>
              {shownLanes(strip.id).map((one) => (
                <LaneView key={one.id} lane={one} width={width} />
              ))}
            </Fragment>
          ))}
          <div ref={playhead} className="playhead" aria-hidden="true" />
        </div>
        {trackIds.length === 0 && <FirstSteps onBringIn={() => files.current!.click()} />}
      </div>
      {openLane && <LaneBar key={openLane.id} lane={openLane} />}
      {chosen && !openLane && <ClipBar key={chosen.id} clip={chosen} />}
    </div>
  );
}
