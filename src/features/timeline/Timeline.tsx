'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import {
  Fragment,
  useDeferredValue,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type DragEvent,
  type ReactNode,
} from 'react';
import { ACCEPTED_SOUNDS } from '@/core/formats/soundFormats';
import { lanesInOrder, stripIdOfOwner } from '@/core/session/lanes';
import { isPlaced, type PlacedPrint } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { Lane } from '@/core/session/records/lanes';
import type { Print } from '@/core/session/records/prints';
import { beatsPerBar, channels } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import { useShortcut } from '../session/shortcuts';
import type { Row } from '../session/state';
import { useStudio, useStudioState } from '../session/StudioContext';
import { droppedFiles } from '../ui/droppedFiles';
import { FilePicker } from '../ui/FilePicker';
import { snapTo } from '../ui/music';
import { writeStyle } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';
import { useScrollTogether } from '../ui/useScrollTogether';
import { BeatRuler } from './BeatRuler';
import { ClipBar } from './ClipBar';
import { useClipBox } from './clipBox';
import { ClipsBar } from './ClipsBar';
import { ClipView } from './ClipView';
import { FirstSteps } from './FirstSteps';
import { laneHeight, shownBeats } from './geometry';
import { gridOf } from '../session/snap';
import { LaneBar } from './LaneBar';
import { LANE_HEIGHT } from './laneSheet';
import { LaneView } from './LaneView';
import { RowNotes } from './RowNotes';
import { Sections } from './Sections';
import { TimelineTools } from './TimelineTools';
import { useTimelineZoom } from './useTimelineZoom';
import { useVisibleSpan } from './useVisibleSpan';
import { WIDEST } from './Waveform';

/** Sections and beat ruler above the lanes, in pixels. */
const HEAD_HEIGHT = 46;
/** Rows of returns and of the main output, which have no clips. */
const SHORT_LANE = 34;
const ROW_HEIGHTS = { low: 44, tall: 120 } as const;
/** The names of keys stand to the left of open notes, which begin at the same beat: see notes.css. */
const GUTTER = 58;
const KEY_ZOOM = 1.3;
/** Rows above and below the view that are drawn too. */
const ROWS_BEYOND = 3;

/** Clips on the beat grid, a row for each strip with its lanes of automation under it. */
export function Timeline() {
  const studio = useStudio();
  const { document, pixelsPerBeat, stripId, clipIds, snap, laneId, notesFor } = useStudioState((state) => ({
    document: state.document,
    pixelsPerBeat: state.pixelsPerBeat,
    stripId: state.stripId,
    clipIds: state.clipIds,
    snap: state.snap,
    laneId: state.laneId,
    notesFor: state.notesFor,
  }));
  const scroller = useRef<HTMLDivElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const files = useRef<HTMLInputElement>(null);
  const [dropping, setDropping] = useState(false);
  const beats = shownBeats(document);
  const perBar = beatsPerBar(document.session);
  const width = beats * pixelsPerBeat;
  const gutter = notesFor === null ? 0 : GUTTER;
  const { zoom, fit, viewHeight } = useTimelineZoom({ scrollerRef: scroller, gutter, beats, perBar });
  const { rows, lanesOf } = useRows(viewHeight - HEAD_HEIGHT);
  const clips = useMemo(() => grouped(Object.values(document.clips), ({ trackId }) => trackId), [document.clips]);
  const landings = useMemo(
    () => grouped(Object.values(document.prints).filter(isLanding), ({ recipe }) => recipe.clipId),
    [document.prints],
  );
  const span = useVisibleSpan(scroller, gutter);
  const chosenIds = useMemo(() => new Set(clipIds), [clipIds]);
  const widthOf = ({ lengthSeconds }: Clip) => (lengthSeconds * document.session.tempoBpm * pixelsPerBeat) / 60;
  // Clips in sight, and chosen ones, which may be dragged out of sight.
  const isDrawn = (clip: Clip) => {
    const left = clip.startBeat * pixelsPerBeat;
    return (left <= span[1] && left + widthOf(clip) >= span[0]) || chosenIds.has(clip.id);
  };
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (n) => rows[n]!.whole,
    getItemKey: (n) => rows[n]!.stripId,
    overscan: ROWS_BEYOND,
    scrollMargin: HEAD_HEIGHT,
    initialRect: { width: innerWidth, height: innerHeight },
  });
  const heights = rows.map(({ whole }) => whole).join();
  useLayoutEffect(() => virtual.measure(), [virtual, heights]);
  const items = virtual.getVirtualItems();
  const drawn = items.map(({ index }) => rows[index]!);
  const above = (items[0]?.start ?? HEAD_HEIGHT) - HEAD_HEIGHT;
  const below = virtual.getTotalSize() + HEAD_HEIGHT - (items.at(-1)?.end ?? HEAD_HEIGHT);
  useScrollTogether(scroller);
  const [beginBox, clipBox] = useClipBox(rows, HEAD_HEIGHT);

  useFrame(() => {
    const box = scroller.current;
    if (!playhead.current || !box) return;
    const x = studio.transport.heardBeat * studio.state.pixelsPerBeat;
    const view = box.clientWidth - gutter;
    writeStyle(playhead.current, 'transform', `translateX(${x.toFixed(1)}px)`);
    if (studio.engine.playing && (x > box.scrollLeft + view - 20 || x < box.scrollLeft))
      box.scrollLeft = Math.max(0, x - 60);
  });
  useShortcut('chooseNone', () => studio.set({ clipIds: [] }));
  useShortcut('zoomIn', () => zoom(KEY_ZOOM));
  useShortcut('zoomOut', () => zoom(1 / KEY_ZOOM));

  const bringIn = (list: readonly File[], beat: number, trackId: string | null) =>
    void studio.imports.importFiles(list, snapTo(beat, gridOf(snap, document)), trackId);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setDropping(false);
    const box = scroller.current!.getBoundingClientRect();
    const beat = (event.clientX - box.left - gutter + scroller.current!.scrollLeft) / pixelsPerBeat;
    const row = (event.target as HTMLElement).closest<HTMLElement>('[data-track]');
    const trackId = row?.dataset.track ?? null;
    void studio.jobs
      .run('Looking at what was dropped', () => droppedFiles(event.dataTransfer))
      .then((list) => list && bringIn(list, Math.max(0, beat), trackId));
  };

  // The clip is marked first; its bar follows a moment later.
  const toolsFor = useDeferredValue(clipIds);
  const chosen = useMemo(() => toolsFor.flatMap((id) => document.clips[id] ?? []), [toolsFor, document.clips]);
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
      onDrop={drop}
    >
      <TimelineTools onBringIn={() => files.current!.click()} onZoom={zoom} onFit={fit} />
      <FilePicker
        ref={files}
        label="Sound files"
        accept={ACCEPTED_SOUNDS}
        multiple
        onPick={(list) => bringIn(list, studio.transport.heardBeat, null)}
      />
      <div className="timeline-scroll" ref={scroller} tabIndex={0} role="region" aria-label="Tracks over time">
        <div className="timeline-sheet" style={{ width, marginLeft: gutter }} onPointerDown={beginBox}>
          <div className="timeline-head" onPointerDown={(event) => event.stopPropagation()}>
            <Sections />
            <BeatRuler beats={beats} span={span} />
          </div>
          <div style={{ height: above }} />
          {drawn.map((row) => (
            <Fragment key={row.stripId}>
              <StripRow row={row} isSelected={row.stripId === stripId} barWidth={perBar * pixelsPerBeat}>
                {clips
                  .get(row.stripId)
                  ?.filter(isDrawn)
                  .map((clip) => (
                    <ClipView
                      key={clip.id}
                      clip={clip}
                      landings={landings.get(clip.id) ?? NO_LANDINGS}
                      lane={row.height}
                      frozen={document.tracks[row.stripId]!.frozen !== null}
                      span={widthOf(clip) > WIDEST ? span : EVERYWHERE}
                    />
                  ))}
              </StripRow>
              {lanesOf(row.stripId).map((one) => (
                <LaneView key={one.id} lane={one} width={width} />
              ))}
            </Fragment>
          ))}
          <div style={{ height: below }} />
          {clipBox && (
            <div
              className="clip-box"
              style={{
                left: clipBox.beats[0] * pixelsPerBeat,
                width: (clipBox.beats[1] - clipBox.beats[0]) * pixelsPerBeat,
                top: HEAD_HEIGHT + clipBox.heights[0],
                height: clipBox.heights[1] - clipBox.heights[0],
              }}
            />
          )}
          <div ref={playhead} className="playhead" aria-hidden="true" />
        </div>
        {document.session.trackIds.length === 0 && <FirstSteps onBringIn={() => files.current!.click()} />}
      </div>
      {openLane && <LaneBar key={openLane.id} lane={openLane} />}
      {chosen.length === 1 && !openLane && <ClipBar key={chosen[0]!.id} clip={chosen[0]!} />}
      {chosen.length > 1 && !openLane && <ClipsBar clips={chosen} />}
    </div>
  );
}

/** Told to clips that are drawn as a whole, so that scrolling does not draw them anew. */
const EVERYWHERE = [0, 0] as const;
const NO_LANDINGS: readonly PlacedPrint[] = [];
const isLanding = (print: Print): print is PlacedPrint => isPlaced(print) && print.recipe.kind === 'swell';

interface StripRowProps {
  readonly row: Row;
  readonly isSelected: boolean;
  readonly barWidth: number;
  readonly children: ReactNode;
}

/** The row of a strip: clips are dropped on those of tracks. */
function StripRow({ row: { stripId, height }, isSelected, barWidth, children }: StripRowProps) {
  const isTrack = useStudioState(({ document }) => document.tracks[stripId] !== undefined);
  const kind = isTrack ? '' : `lane-short lane-${stripId === MAIN_ID ? 'main' : 'wet'}`;
  return (
    <div
      className={`lane ${kind} ${isSelected ? 'lane-selected' : ''}`}
      data-row={stripId}
      data-menu={`row ${stripId}`}
      data-track={isTrack ? stripId : undefined}
      style={{ height, backgroundSize: `${barWidth}px 100%` }}
    >
      <RowNotes stripId={stripId} height={height} />
      {children}
    </div>
  );
}

/** Groups by key, each in its order; those without a key are left out. */
function grouped<T>(all: readonly T[], keyOf: (one: T) => string | undefined): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const one of all) {
    const key = keyOf(one);
    if (key === undefined) continue;
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}

/** Lanes of automation by the strip under which they stand. */
function lanesByStrip(document: SessionDocument): ReadonlyMap<string, readonly Lane[]> {
  const byStrip = grouped(Object.values(document.lanes), ({ ownerId }) => stripIdOfOwner(document, ownerId));
  for (const [strip, some] of byStrip) byStrip.set(strip, lanesInOrder(document, some));
  return byStrip;
}

/**
 * The rows from top to bottom, told to the list of tracks, which lines up with them.
 * @param available pixels of the view for all of them
 */
function useRows(available: number): { rows: readonly Row[]; lanesOf: (stripId: string) => readonly Lane[] } {
  const studio = useStudio();
  const { document, stripId, rowSize, lanesOpen } = useStudioState((state) => ({
    document: state.document,
    stripId: state.stripId,
    rowSize: state.rowSize,
    lanesOpen: state.lanesOpen,
  }));
  const lanes = useMemo(() => lanesByStrip(document), [document]);
  const all = (id: string) => lanes.get(id) ?? [];
  const lanesOf = (id: string) => (id === stripId || lanesOpen.includes(id) ? all(id) : []);
  const { trackIds } = document.session;
  const others = [
    ...channels(document)
      .filter(({ id }) => document.returns[id])
      .map(({ id }) => id),
    MAIN_ID,
  ];
  const shown = [...trackIds, ...others].reduce((sum, id) => sum + lanesOf(id).length, 0);
  const taken = others.length * SHORT_LANE + shown * LANE_HEIGHT;
  const trackHeight = rowSize === 'fit' ? laneHeight(available - taken, trackIds.length) : ROW_HEIGHTS[rowSize];
  const rows = [...trackIds, ...others].map((id): Row => {
    const height = document.tracks[id] ? trackHeight : SHORT_LANE;
    return { stripId: id, height, whole: height + lanesOf(id).length * LANE_HEIGHT, lanes: all(id).length };
  });
  const told = JSON.stringify(rows);
  useLayoutEffect(() => {
    studio.set({ rows: JSON.parse(told) as Row[], rowsHeight: available });
  }, [studio, told, available]);
  return { rows, lanesOf };
}
