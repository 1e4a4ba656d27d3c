'use client';

import { memo, useRef, useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { Plus, Snowflake, Trash2 } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { MAIN_ID, type Return, type Strip, type Track } from '@/core/session/records';
import { usePrintState } from '../session/usePrintState';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { meterPosition } from '../ui/levels';
import { RenameInput } from '../ui/RenameInput';
import { useCount } from '../ui/useCount';
import { useFrame } from '../ui/useFrame';

type Kind = 'track' | 'return' | 'group' | 'main';

/** Tracks, returns and the main output with live meters. What is selected here is what the rest of the screen is about. */
export function Cast() {
  const studio = useStudio();
  const { session, tracks, returns, main, stripId } = useStudioState(({ document, stripId }) => ({
    session: document.session,
    tracks: document.tracks,
    returns: document.returns,
    main: document.main,
    stripId,
  }));
  const listened = useStudioState(({ document }) =>
    Object.values(document.inserts).flatMap(({ inputs }) => Object.values(inputs).map(({ stripId }) => stripId)),
  );
  const list = useRef<HTMLDivElement>(null);
  const { trackIds, returnIds } = session;

  useFrame(() => {
    list.current?.querySelectorAll<HTMLElement>('[data-strip]').forEach((bar) => {
      const { left, right } = studio.engine.level(bar.dataset.strip!);
      bar.style.transform = `scaleX(${meterPosition(Math.max(left, right)).toFixed(4)})`;
    });
  });

  const addReturn = (role: Return['role']) => {
    const id = newId();
    const count = returnIds.filter((one) => returns[one]!.role === role).length + 1;
    const name = `${role === 'return' ? 'Return' : 'Group'} ${count}`;
    if (studio.perform({ type: 'return.add', id, name, role }, `Add a ${role}`)) studio.selectStrip(id);
  };
  const keys = new Set(listened);

  return (
    <aside className="cast" aria-label="Cast" ref={list}>
      <div className="caption">
        <h2>Tracks</h2>
        <Button
          variant="icon"
          aria-label="Add a track"
          title="Add an empty track"
          onClick={() => {
            const id = newId();
            if (studio.perform({ type: 'track.add', id, name: `Track ${trackIds.length + 1}` }, 'Add a track'))
              studio.selectStrip(id);
          }}
        >
          <Plus size={14} aria-hidden="true" />
        </Button>
      </div>
      <ul>
        {trackIds.map((id) => (
          <Member key={id} strip={tracks[id]!} kind="track" keys={keys.has(id)} selected={id === stripId} />
        ))}
      </ul>
      {trackIds.length === 0 && (
        <p className="empty-hint">No tracks yet. Drop a sound onto the timeline, or add a track.</p>
      )}
      <div className="caption">
        <h2>Returns</h2>
        <Dropdown align="end">
          <Dropdown.Toggle variant="icon" bsPrefix="add-return" aria-label="Add a return or a group">
            <Plus size={14} aria-hidden="true" />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item as="button" type="button" onClick={() => addReturn('return')}>
              <b>Return</b>
              <small>Effects shared by many tracks, fed by their sends, wet only.</small>
            </Dropdown.Item>
            <Dropdown.Item as="button" type="button" onClick={() => addReturn('group')}>
              <b>Group</b>
              <small>Tracks that go on together, fed by their outputs.</small>
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      </div>
      <ul>
        {returnIds.map((id) => (
          <Member
            key={id}
            strip={returns[id]!}
            kind={returns[id]!.role}
            keys={keys.has(id)}
            selected={id === stripId}
          />
        ))}
      </ul>
      {returnIds.length === 0 && (
        <p className="empty-hint">
          None yet. A return is one effect for many tracks: send to it from a track’s signal path.
        </p>
      )}
      <div className="caption">
        <h2>Output</h2>
      </div>
      <ul>
        <Member strip={main} kind="main" keys={false} selected={stripId === MAIN_ID} />
      </ul>
    </aside>
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

const SIGNALS: Record<Kind, string> = { track: 'dry', return: 'wet', group: 'dry', main: 'main' };

const Member = memo(function Member(props: { strip: Strip | Track; kind: Kind; keys: boolean; selected: boolean }) {
  const { strip, kind, keys, selected } = props;
  const studio = useStudio();
  const [renaming, setRenaming] = useState(false);
  const isMain = kind === 'main';
  const frozen = 'frozen' in strip ? strip.frozen : null;
  const stale = (usePrintState(frozen) ?? 'fresh') !== 'fresh';
  const flip = (what: 'mute' | 'solo') =>
    studio.perform(
      { type: 'strip.set', id: strip.id, values: { [what]: !strip[what] } },
      `${strip[what] ? 'End' : 'Begin'} ${what} of ${strip.name}`,
    );
  return (
    <li className={`member member-${SIGNALS[kind]} ${selected ? 'member-selected' : ''}`}>
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
            studio.perform({ type: 'strip.set', id: strip.id, values: { name } }, `Rename ${strip.name}`)
          }
          onEnd={() => setRenaming(false)}
        />
      ) : (
        <Button
          bsPrefix="member-name"
          aria-pressed={selected}
          title={isMain ? strip.name : `${strip.name}: double-click or F2 renames`}
          onClick={() => studio.selectStrip(strip.id)}
          onDoubleClick={() => !isMain && setRenaming(true)}
          onKeyDown={(event) => event.key === 'F2' && !isMain && setRenaming(true)}
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
          onClick={() => studio.perform({ type: 'strip.remove', id: strip.id }, `Remove ${strip.name}`)}
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
      <div className="member-meter" aria-hidden="true">
        <span data-strip={strip.id} />
      </div>
    </li>
  );
});
