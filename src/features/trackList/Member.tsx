'use client';

import { memo, useCallback, useState } from 'react';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Snowflake, Trash2 } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { placedStrip } from '@/core/session/compile/strips';
import type { Strip, Track } from '@/core/session/records/strips';
import { RenameInput } from '../controls/RenameInput';
import type { Row } from '../session/state';
import { flipStrips, removeStrips } from '../session/stripWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { usePrintState } from '../session/usePrintState';
import { useCount } from '../ui/useCount';
import { useFrame } from '../ui/useFrame';

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

/** What a strip of the cast is. */
export type Kind = 'track' | 'return' | 'group' | 'main';

const SIGNALS: Record<Kind, string> = { track: 'dry', return: 'wet', group: 'dry', main: 'main' };

export interface MemberProps {
  readonly strip: Strip | Track;
  readonly kind: Kind;
  readonly keys: boolean;
  readonly selected: boolean;
  /** Chosen beside the one that is shown. */
  readonly beside: boolean;
  /** Its width beside the timeline. */
  readonly row: Row | null;
  readonly lanesOpen: boolean;
  /** Its place among so many, and what measures it, in a list of which only a part is drawn. */
  readonly index?: number;
  readonly count?: number;
  readonly measure?: (element: Element | null) => void;
}

/** A strip of the cast. */
export const Member = memo(function Member(props: MemberProps) {
  const { strip, kind, keys, selected, beside, row, lanesOpen, index, count, measure } = props;
  const studio = useStudio();
  const { setNodeRef, listeners, transform, transition, isDragging } = useSortable({
    id: strip.id,
    disabled: kind === 'main',
  });
  const place = useCallback(
    (element: HTMLLIElement | null) => {
      setNodeRef(element);
      measure?.(element);
    },
    [setNodeRef, measure],
  );
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
      ref={place}
      data-index={index}
      aria-posinset={index === undefined ? undefined : index + 1}
      aria-setsize={count}
      data-drop-strip={strip.id}
      data-menu={`strip ${strip.id}`}
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
