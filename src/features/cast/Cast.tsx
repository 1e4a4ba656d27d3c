'use client';

import { useRef, useState } from 'react';
import { Plus, Trash2 } from 'lucide-react';
import { MAIN_ID, type Track } from '@/core/session/records';
import { newId } from '../session/studio';
import { useFrame, useStudio, useStudioState } from '../session/StudioContext';
import { meterPosition } from '../ui/levels';
import { RenameInput } from '../ui/RenameInput';

/** Tracks and the main output with live meters. What is selected here is what the rest of the screen is about. */
export function Cast() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const list = useRef<HTMLDivElement>(null);
  const { trackIds } = document.session;

  useFrame(() => {
    list.current?.querySelectorAll<HTMLElement>('[data-strip]').forEach((bar) => {
      const { left, right } = studio.engine.level(Number(bar.dataset.strip));
      bar.style.transform = `scaleX(${meterPosition(Math.max(left, right)).toFixed(4)})`;
    });
  });

  return (
    <aside className="cast" aria-label="Cast" ref={list}>
      <div className="caption">
        <h2>Tracks</h2>
        <button
          type="button"
          className="icon-button"
          aria-label="Add a track"
          title="Add an empty track"
          onClick={() => {
            const id = newId();
            if (studio.perform({ type: 'track.add', id, name: `Track ${trackIds.length + 1}` }, 'Add a track'))
              studio.selectStrip(id);
          }}
        >
          <Plus size={14} aria-hidden="true" />
        </button>
      </div>
      <ul>
        {trackIds.map((id, index) => (
          <Member key={id} strip={document.tracks[id]!} meter={index + 1} selected={id === stripId} />
        ))}
      </ul>
      {trackIds.length === 0 && (
        <p className="empty-hint">No tracks yet. Drop a sound onto the timeline, or add a track.</p>
      )}
      <div className="caption">
        <h2>Output</h2>
      </div>
      <ul>
        <Member strip={document.main} meter={0} selected={stripId === MAIN_ID} />
      </ul>
    </aside>
  );
}

function Member({ strip, meter, selected }: { strip: Track; meter: number; selected: boolean }) {
  const studio = useStudio();
  const [renaming, setRenaming] = useState(false);
  const isMain = strip.id === MAIN_ID;
  const flip = (what: 'mute' | 'solo') =>
    studio.perform(
      { type: 'strip.set', id: strip.id, values: { [what]: !strip[what] } },
      `${strip[what] ? 'End' : 'Begin'} ${what} of ${strip.name}`,
    );
  return (
    <li className={`member ${selected ? 'member-selected' : ''} ${isMain ? 'member-main' : ''}`}>
      <i className="path-mark" aria-hidden="true" />
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
        <button
          type="button"
          className="member-name"
          aria-pressed={selected}
          title={isMain ? strip.name : `${strip.name}: double-click or F2 renames`}
          onClick={() => studio.selectStrip(strip.id)}
          onDoubleClick={() => !isMain && setRenaming(true)}
          onKeyDown={(event) => event.key === 'F2' && !isMain && setRenaming(true)}
        >
          {strip.name}
        </button>
      )}
      {!isMain && selected && (
        <button
          type="button"
          className="member-remove"
          aria-label={`Remove ${strip.name}`}
          title="Remove this track"
          onClick={() => studio.perform({ type: 'track.remove', id: strip.id }, `Remove ${strip.name}`)}
        >
          <Trash2 size={12} aria-hidden="true" />
        </button>
      )}
      {!isMain && (
        <button
          type="button"
          className="flag"
          aria-pressed={strip.solo}
          aria-label={`Solo ${strip.name}`}
          title="Solo"
          onClick={() => flip('solo')}
        >
          S
        </button>
      )}
      <button
        type="button"
        className="flag"
        aria-pressed={strip.mute}
        aria-label={`Mute ${strip.name}`}
        title="Mute"
        onClick={() => flip('mute')}
      >
        M
      </button>
      <div className="member-meter" aria-hidden="true">
        <span data-strip={meter} />
      </div>
    </li>
  );
}
