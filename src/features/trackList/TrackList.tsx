'use client';

import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { closestCenter, DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import Dropdown from 'react-bootstrap/Dropdown';
import { Plus, Snowflake, Trash2 } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { placedStrip } from '@/core/session/compile/strips';
import type { Strip, Track } from '@/core/session/records/strips';
import { usePrintState } from '../session/usePrintState';
import type { Row } from '../session/state';
import { addReturn, addTrack, flipStrips, removeStrips } from '../session/stripWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { dragAnnouncements } from '../ui/dragAnnouncements';
import { meterPosition } from '../ui/levels';
import { RenameInput } from '../controls/RenameInput';
import { useCount } from '../ui/useCount';
import { useNarrow } from '../ui/useNarrow';
import { writeStyle } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';
import { useScrollTogether } from '../ui/useScrollTogether';

type Kind = 'track' | 'return' | 'group' | 'main';

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
  // One that is chosen elsewhere, or new, comes into sight.
  useEffect(() => {
    list.current?.querySelector('.member-selected')?.scrollIntoView({ block: 'nearest' });
  }, [stripId]);

  /** Puts a strip in the place of another of its kind. */
  const reorder = ({ active, over }: DragEndEvent) => {
    const id = String(active.id);
    const order = trackIds.includes(id) ? trackIds : returnIds;
    const to = over ? order.indexOf(String(over.id)) : -1;
    if (to < 0 || to === order.indexOf(id)) return;
    studio.editor.perform({ type: 'strip.move', id, to }, `Move ${(tracks[id] ?? returns[id])!.name}`);
  };
  const member = (strip: Strip | Track, kind: Kind) => (
    <Member
      key={strip.id}
      strip={strip}
      kind={kind}
      keys={keys.has(strip.id)}
      selected={strip.id === stripId}
      beside={besideIds.includes(strip.id)}
      row={aligned ? (rows.find((row) => row.stripId === strip.id) ?? null) : null}
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
      onDragEnd={reorder}
    >
      <SortableContext items={[...trackIds]} strategy={verticalListSortingStrategy}>
        <ul aria-label="Tracks">{trackIds.map((id) => member(tracks[id]!, 'track'))}</ul>
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

/** Says that a strip has gone over full scale, until it is pressed. */
function Overs({ stripId, name }: { stripId: string; name: string }) {
  const studio = useStudio();
  const [overs, clear] = useCount(() => studio.engine.overs(stripId));
  if (overs === 0) return null;
  return (
    <Button
      bsPrefix="member-over"
      aria-label={`${name}: ${overs} samples over full scale. Clear`}
      title={`${overs} samples over full scale: press to clear`}
      onClick={clear}
    >
      over
    </Button>
  );
}

/** Says that a strip loses more in mono than it may; pressed, it leads to what and where. */
function MonoMark({ strip }: { strip: Strip | Track }) {
  const studio = useStudio();
  const { id, name, monoLimitDb } = strip;
  const heardId = 'placeId' in strip && strip.placeId !== null ? placedStrip(id) : id;
  const [lost, setLost] = useState<number | null>(null);
  useFrame(() => {
    const loss = studio.engine.playing ? studio.engine.monoLoss(heardId) : 0;
    // Once it is there it stays until it is clearly less, so that it does not flicker.
    const marked = loss > (lost === null ? monoLimitDb : monoLimitDb - 0.5);
    const shown = marked ? Math.round(loss) : null;
    if (shown !== lost) setLost(shown);
  });
  if (lost === null) return null;
  return (
    <Button
      bsPrefix="member-over member-mono"
      aria-label={`${name} loses ${lost} dB in mono. Look closer`}
      title={`Mono takes ${lost} dB of it, more than ${monoLimitDb} dB: press to see where`}
      onClick={() => {
        studio.selection.selectStrip(id);
        studio.set({ view: 'compare' });
      }}
    >
      mono −{lost} dB
    </Button>
  );
}

const SIGNALS: Record<Kind, string> = { track: 'dry', return: 'wet', group: 'dry', main: 'main' };

interface MemberProps {
  readonly strip: Strip | Track;
  readonly kind: Kind;
  readonly keys: boolean;
  readonly selected: boolean;
  /** Chosen beside the one that is shown. */
  readonly beside: boolean;
  /** Its width beside the timeline. */
  readonly row: Row | null;
  readonly lanesOpen: boolean;
}

const Member = memo(function Member({ strip, kind, keys, selected, beside, row, lanesOpen }: MemberProps) {
  const studio = useStudio();
  const { setNodeRef, listeners, transform, transition, isDragging } = useSortable({
    id: strip.id,
    disabled: kind === 'main',
  });
  const [renaming, setRenaming] = useState(false);
  const isDropTarget = useStudioState(({ dropStripId }) => dropStripId === strip.id);
  const isMain = kind === 'main';
  const frozen = 'frozen' in strip ? strip.frozen : null;
  const stale = (usePrintState(frozen) ?? 'fresh') !== 'fresh';
  /** Changes places with the one above or below. */
  const move = (by: number) => {
    const { trackIds, returnIds } = studio.state.document.session;
    const order = trackIds.includes(strip.id) ? trackIds : returnIds;
    const to = order.indexOf(strip.id) + by;
    if (isMain || to < 0 || to >= order.length) return;
    studio.editor.perform({ type: 'strip.move', id: strip.id, to }, `Move ${strip.name}`);
  };
  const flip = (what: 'mute' | 'solo') => flipStrips(studio, strip, what);
  return (
    <li
      ref={setNodeRef}
      data-drop-strip={strip.id}
      className={`member-row ${isDragging ? 'member-dragged' : ''} ${isDropTarget ? 'member-drop' : ''}`}
      style={{ height: row?.whole, transform: CSS.Translate.toString(transform), transition }}
      {...listeners}
    >
      <div
        className={`member member-${SIGNALS[kind]} ${selected ? 'member-selected' : beside ? 'member-beside' : ''}`}
        style={{ height: row?.height }}
      >
        <i
          className={`path-mark ${keys ? 'path-mark-key' : ''}`}
          title={keys ? 'Steers an effect as its key' : undefined}
        />
        {renaming ? (
          <RenameInput
            className="member-rename"
            label={`New name of ${strip.name}`}
            name={strip.name}
            onRename={(name) =>
              studio.editor.perform({ type: 'strip.set', id: strip.id, values: { name } }, `Rename ${strip.name}`)
            }
            onEnd={() => setRenaming(false)}
          />
        ) : (
          <Button
            bsPrefix="member-name"
            aria-pressed={selected || beside}
            title={
              isMain
                ? strip.name
                : `${strip.name}: double-click or F2 renames, Alt and arrows move it, Ctrl or Shift chooses several`
            }
            onClick={({ ctrlKey, metaKey, shiftKey }) =>
              studio.selection.selectStrip(strip.id, shiftKey ? 'upTo' : ctrlKey || metaKey ? 'beside' : 'alone')
            }
            onDoubleClick={() => !isMain && setRenaming(true)}
            onKeyDown={(event) => {
              if (event.key === 'F2' && !isMain) setRenaming(true);
              const by = event.altKey ? { ArrowUp: -1, ArrowDown: 1 }[event.key] : undefined;
              if (by !== undefined) move(by);
            }}
          >
            {strip.name}
            {frozen !== null && (
              <Snowflake
                size={10}
                className={stale ? 'stale' : undefined}
                aria-label={stale ? 'frozen, out of date' : 'frozen'}
              />
            )}
          </Button>
        )}
        {!isMain && selected && (
          <Button
            bsPrefix="member-remove"
            aria-label={`Remove ${strip.name}`}
            title={`Remove this ${kind}`}
            onClick={() => removeStrips(studio, strip)}
          >
            <Trash2 size={12} aria-hidden="true" />
          </Button>
        )}
        {!isMain && (
          <Button
            bsPrefix="flag"
            aria-pressed={strip.solo}
            aria-label={`Solo ${strip.name}`}
            title="Solo"
            onClick={() => flip('solo')}
          >
            S
          </Button>
        )}
        <Button
          bsPrefix="flag"
          aria-pressed={strip.mute}
          aria-label={`Mute ${strip.name}`}
          title="Mute"
          onClick={() => flip('mute')}
        >
          M
        </Button>
        <Overs stripId={strip.id} name={strip.name} />
        <MonoMark strip={strip} />
        <div className="member-meter" aria-hidden="true">
          <span data-strip={strip.id} />
        </div>
      </div>
      {row !== null && row.lanes > 0 && !selected && (
        <Button
          bsPrefix="member-lanes"
          aria-pressed={lanesOpen}
          aria-label={`Lanes of ${strip.name}`}
          title={lanesOpen ? 'Fold its lanes away' : 'Keep its lanes open'}
          onClick={() => {
            const { lanesOpen: open } = studio.state;
            studio.set({ lanesOpen: lanesOpen ? open.filter((id) => id !== strip.id) : [...open, strip.id] });
          }}
        >
          {row.lanes === 1 ? '1 lane' : `${row.lanes} lanes`}
        </Button>
      )}
    </li>
  );
});
