'use client';

import { useEffect, useEffectEvent, useMemo, useRef, useState } from 'react';
import { closestCenter, DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable';
import Dropdown from 'react-bootstrap/Dropdown';
import { Plus } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import type { Strip, Track } from '@/core/session/records/strips';
import { addReturn, addTrack } from '../session/stripWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { dragAnnouncements } from '../ui/dragAnnouncements';
import { meterPosition } from '../ui/levels';
import { useNarrow } from '../ui/useNarrow';
import { writeStyle } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';
import { useScrollTogether } from '../ui/useScrollTogether';
import { Member, type Kind, type MemberProps } from './Member';
import { useTracksInSight } from './useTracksInSight';

/**
 * Tracks, returns and the main output with live meters. What is selected here is what the rest of the screen is about.
 * Beside the timeline it lines up with its rows and scrolls along.
 */
export function TrackList() {
  const studio = useStudio();
  const isNarrow = useNarrow();
  const { session, tracks, returns, main, stripId, besideIds, rows, rowsHeight, lanesOpen, aligned } = useStudioState(
    (state) => ({
      session: state.document.session,
      tracks: state.document.tracks,
      returns: state.document.returns,
      main: state.document.main,
      stripId: state.stripId,
      besideIds: state.besideIds,
      rows: state.rows,
      rowsHeight: state.rowsHeight,
      lanesOpen: state.lanesOpen,
      aligned: state.view === 'timeline' && !isNarrow,
    }),
  );
  const inserts = useStudioState(({ document }) => document.inserts);
  const keys = useMemo(
    () => new Set(Object.values(inserts).flatMap((one) => Object.values(one.inputs).map(({ stripId }) => stripId))),
    [inserts],
  );
  const list = useRef<HTMLDivElement>(null);
  const { trackIds, returnIds } = session;
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));

  useFrame(() => {
    list.current?.querySelectorAll<HTMLElement>('[data-strip]').forEach((bar) => {
      const { left, right } = studio.engine.level(bar.dataset.strip!);
      writeStyle(bar, 'transform', `scaleX(${meterPosition(Math.max(left, right)).toFixed(3)})`);
    });
  });
  useScrollTogether(list, aligned);
  const rowOf = useMemo(() => new Map(aligned ? rows.map((row) => [row.stripId, row]) : []), [aligned, rows]);
  const [isDragging, setDragging] = useState(false);
  const inSight = useTracksInSight(list, trackIds, rowOf, isDragging);
  // One that is chosen elsewhere, or new, comes into sight.
  const show = useEffectEvent(() => {
    if (!inSight.scrollTo(stripId))
      list.current?.querySelector('.member-selected')?.scrollIntoView({ block: 'nearest' });
  });
  useEffect(() => show(), [stripId]);

  /** Puts a strip in the place of another of its kind. */
  const reorder = ({ active, over }: DragEndEvent) => {
    setDragging(false);
    const id = String(active.id);
    const order = trackIds.includes(id) ? trackIds : returnIds;
    const to = over ? order.indexOf(String(over.id)) : -1;
    if (to < 0 || to === order.indexOf(id)) return;
    studio.editor.perform({ type: 'strip.move', id, to }, `Move ${(tracks[id] ?? returns[id])!.name}`);
  };
  const member = (strip: Strip | Track, kind: Kind, place?: Pick<MemberProps, 'index' | 'count' | 'measure'>) => (
    <Member
      key={strip.id}
      strip={strip}
      kind={kind}
      keys={keys.has(strip.id)}
      selected={strip.id === stripId}
      beside={besideIds.includes(strip.id)}
      row={rowOf.get(strip.id) ?? null}
      {...place}
      lanesOpen={lanesOpen.includes(strip.id)}
    />
  );
  const trackTools = (
    <Button variant="icon" aria-label="Add a track" title="Add an empty track" onClick={() => addTrack(studio)}>
      <Plus size={14} aria-hidden="true" />
    </Button>
  );
  const returnTools = (
    <Dropdown align="end">
      <Dropdown.Toggle variant="icon" bsPrefix="add-return" aria-label="Add a return or a group">
        <Plus size={14} aria-hidden="true" />
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Item as="button" type="button" onClick={() => addReturn(studio, 'return')}>
          <b>Return</b>
          <small>Effects shared by many tracks, fed by their sends, wet only.</small>
        </Dropdown.Item>
        <Dropdown.Item as="button" type="button" onClick={() => addReturn(studio, 'group')}>
          <b>Group</b>
          <small>Tracks that go on together, fed by their outputs.</small>
        </Dropdown.Item>
      </Dropdown.Menu>
    </Dropdown>
  );
  const members = (
    <DndContext
      id="cast"
      sensors={sensors}
      collisionDetection={closestCenter}
      accessibility={{ announcements: dragAnnouncements((id) => (tracks[id] ?? returns[id])?.name ?? 'a strip') }}
      onDragStart={() => setDragging(true)}
      onDragCancel={() => setDragging(false)}
      onDragEnd={reorder}
    >
      <SortableContext items={[...trackIds]} strategy={verticalListSortingStrategy}>
        <ul aria-label="Tracks" style={{ paddingTop: inSight.above, paddingBottom: inSight.below }}>
          {inSight.indices.map((index) =>
            member(tracks[trackIds[index]!]!, 'track', { index, count: trackIds.length, measure: inSight.measure }),
          )}
        </ul>
      </SortableContext>
      {!aligned && trackIds.length === 0 && (
        <p className="empty-hint">No tracks yet. Drop a sound onto the timeline, or add a track.</p>
      )}
      {!aligned && (
        <div className="caption">
          <h2>Returns</h2>
          {returnTools}
        </div>
      )}
      <SortableContext items={[...returnIds]} strategy={verticalListSortingStrategy}>
        <ul aria-label="Returns">{returnIds.map((id) => member(returns[id]!, returns[id]!.role))}</ul>
      </SortableContext>
      {!aligned && returnIds.length === 0 && (
        <p className="empty-hint">
          None yet. A return is one effect for many tracks: send to it from a track’s signal path.
        </p>
      )}
      {!aligned && (
        <div className="caption">
          <h2>Output</h2>
        </div>
      )}
      <ul aria-label="Output">{member(main, 'main')}</ul>
    </DndContext>
  );
  return (
    <section className={`cast ${aligned ? 'cast-aligned' : ''}`} aria-label="Cast">
      {aligned ? (
        <div className="cast-head">
          <span>tracks</span>
          {trackTools}
          <span>returns</span>
          {returnTools}
        </div>
      ) : (
        <div className="caption">
          <h2>Tracks</h2>
          {trackTools}
        </div>
      )}
      <div className="cast-list" ref={list} style={aligned ? { flex: 'none', height: rowsHeight } : undefined}>
        {members}
      </div>
    </section>
  );
}
