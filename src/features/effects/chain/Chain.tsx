'use client';

import { useDeferredValue, useState } from 'react';
import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { Plus, Power, Snowflake } from 'lucide-react';

import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { findEffect } from '@/core/effects/registry';
import { channelOf, stripOf } from '@/core/session/records/queries';
import { MAIN_ID, type PanMode, type Return, type Strip, type Track } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import { GAIN_PARAMETER, MUTE_PARAMETER, PAN_PARAMETER } from '@/core/session/stripParameters';
import { freeze, thaw } from '../../session/freezing';
import type { PrintState } from '../../session/printQueue';
import { usePrintState } from '../../session/usePrintState';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { AutomatedRuler } from '../../controls/AutomatedRuler';
import { AutomatedSwitch } from '../../controls/AutomatedSwitch';
import { dragAnnouncements } from '../../ui/dragAnnouncements';
import { EffectStep } from './EffectStep';
import { PlaceStep } from './PlaceStep';
import { Sends } from './Sends';
import { useEffectDrop } from './useEffectDrop';
import { lazyPart } from '../../ui/lazyPart';
import { ChainPresets } from './ChainPresets';

const EffectSheet = lazyPart('The list of effects', () => import('./EffectSheet').then((part) => part.EffectSheet));

/** The selected strip from top to bottom in signal order: source, effects, sends, fader and pan, output. */
export function Chain() {
  const studio = useStudio();
  // What was chosen is marked first; its path follows a moment later.
  const chosenId = useDeferredValue(useStudioState(({ stripId }) => stripId));
  const { strip, channel, stripId, beside, insertId, blind, view } = useStudioState((state) => {
    const { document, insertId, blind, view } = state;
    const strip = stripOf(document, chosenId) ?? stripOf(document, state.stripId)!;
    return {
      strip,
      channel: channelOf(document, strip.id),
      stripId: strip.id,
      beside: state.besideIds.length,
      insertId,
      blind,
      view,
    };
  });
  const [adding, setAdding] = useState(false);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const drop = useEffectDrop();
  const fader = { ownerId: stripId, ownerName: strip.name, signal: 'dry', context: strip.name } as const;
  const nameOf = (id: string) => findEffect(studio.state.document.inserts[id]?.effect ?? '')?.name ?? 'an effect';
  if (blind) {
    return (
      <section className="chain" aria-label={`Signal path of ${strip.name}`}>
        <p className="empty-hint">Hidden while the blind trial goes on.</p>
      </section>
    );
  }
  return (
    <section className="chain" aria-label={`Signal path of ${strip.name}`}>
      <div className="chain-head">
        <h2 title={strip.name}>{strip.name}</h2>
        <span>signal path</span>
        <Button
          variant="icon"
          aria-pressed={strip.bypass}
          aria-label={`Bypass all effects of ${strip.name}`}
          title={strip.bypass ? 'All effects here are bypassed: press to hear them' : 'Bypass all effects here'}
          onClick={() =>
            studio.editor.perform(
              { type: 'strip.set', id: stripId, values: { bypass: !strip.bypass } },
              `${strip.bypass ? 'Hear' : 'Bypass'} the effects of ${strip.name}`,
            )
          }
        >
          <Power size={13} aria-hidden="true" />
        </Button>
        <ChainPresets stripId={stripId} />
        <Button variant="plain" aria-expanded={adding} onClick={() => setAdding(!adding)}>
          <Plus size={12} aria-hidden="true" /> effect
        </Button>
      </div>
      {beside > 0 && (
        <p className="chain-beside" role="status">
          {beside + 1} strips are chosen: level, pan, mute and solo are set on all of them.
        </p>
      )}
      {adding && <EffectSheet stripId={stripId} stripName={strip.name} onHide={() => setAdding(false)} />}
      {channel?.placeId && view === 'stage' && <PlaceStep key={`place ${stripId}`} strip={channel} whole />}
      <div className="step step-source">
        <Source stripId={stripId} />
        {channel && <FreezeButton stripId={stripId} frozen={channel.frozen} />}
      </div>
      <div className={channel?.frozen ? 'chain-frozen' : undefined}>
        <DndContext
          id="chain"
          sensors={sensors}
          collisionDetection={closestCenter}
          accessibility={{ announcements: dragAnnouncements(nameOf) }}
          {...drop}
        >
          <SortableContext items={strip.insertIds} strategy={verticalListSortingStrategy}>
            {strip.insertIds.map((id) => (
              <EffectStep key={id} insertId={id} strip={strip} selected={id === insertId} />
            ))}
          </SortableContext>
        </DndContext>
      </div>
      {strip.insertIds.length === 0 && (
        <p className="empty-hint step">No effects: what you hear is the plain sound. Add one with “+ effect”.</p>
      )}
      {channel && <Sends strip={channel} />}
      <section className="step" aria-label="Fader">
        <h3>Fader</h3>
        <AutomatedRuler parameter={GAIN_PARAMETER} {...fader} />
        {!channel?.placeId && (
          <>
            <AutomatedRuler parameter={PAN_PARAMETER} {...fader} />
            <PanChoice strip={strip} />
          </>
        )}
        <AutomatedSwitch
          ownerId={stripId}
          parameter={MUTE_PARAMETER}
          ownerName={strip.name}
          name={`Mute of ${strip.name}`}
        />
        {channel && <OutputChoice strip={channel} />}
      </section>
      {channel?.placeId && view !== 'stage' && <PlaceStep key={`place ${stripId}`} strip={channel} whole={false} />}
    </section>
  );
}

function Source({ stripId }: { stripId: string }) {
  return <span>{useStudioState(({ document }) => sourceOf(document, stripId))}</span>;
}

/** Sources of a strip, in words. */
function sourceOf(document: SessionDocument, stripId: string): string {
  const count = (many: number, one: string) => `${many} ${one}${many === 1 ? '' : 's'}`;
  if (stripId === MAIN_ID) return 'The sum of all tracks and returns';
  if (channelOf(document, stripId)?.frozen) return 'The frozen render';
  const role = document.returns[stripId]?.role;
  if (role === 'group') {
    const feeding = Object.values(document.tracks).filter((track) => track.outputId === stripId);
    return feeding.length === 0 ? 'Nothing feeds this group yet' : `The sum of ${count(feeding.length, 'track')}`;
  }
  if (role === 'return') {
    const sends = Object.values(document.sends).filter((send) => send.toId === stripId);
    return sends.length === 0 ? 'Nothing is sent here yet' : `The sum of ${count(sends.length, 'send')}`;
  }
  return count(Object.values(document.clips).filter((clip) => clip.trackId === stripId).length, 'clip');
}

const PRINT_WORDS: Record<Exclude<PrintState, 'fresh'>, string> = {
  stale: 'Out of date: render again',
  computing: 'Rendering…',
  failed: 'Rendering failed: try again',
};

function FreezeButton({ stripId, frozen }: { stripId: string; frozen: string | null }) {
  const studio = useStudio();
  const state = usePrintState(frozen);
  if (frozen === null) {
    return (
      <Button
        variant="line"
        title="Renders this with its effects and plays the result, to save processor time; the effects stay as they are"
        onClick={() => void freeze(studio, stripId)}
      >
        <Snowflake size={11} aria-hidden="true" /> Freeze
      </Button>
    );
  }
  return (
    <>
      {state !== null && state !== 'fresh' && (
        <Button
          variant="line"
          className="stale"
          title="Something it depends on has changed since it was rendered"
          disabled={state === 'computing'}
          onClick={() => void studio.prints.renew(frozen)}
        >
          {PRINT_WORDS[state]}
        </Button>
      )}
      <Button variant="line" onClick={() => thaw(studio, stripId)}>
        Thaw
      </Button>
    </>
  );
}

function PanChoice({ strip }: { strip: Strip }) {
  const studio = useStudio();
  return (
    <label
      className="choice"
      data-help="Balance lowers the far side. Stereo moves the far side into the near one, so that nothing of it is lost."
    >
      <span>Pan mode</span>
      <Form.Select
        aria-label="Pan mode"
        value={strip.panMode}
        onChange={({ target }) =>
          studio.editor.perform(
            { type: 'strip.set', id: strip.id, values: { panMode: target.value as PanMode } },
            `Pan mode of ${strip.name}`,
          )
        }
      >
        <option value="balance">Balance</option>
        <option value="stereo">Stereo</option>
      </Form.Select>
    </label>
  );
}

function OutputChoice({ strip }: { strip: Track | Return }) {
  const studio = useStudio();
  const stripId = strip.id;
  const mainName = useStudioState(({ document }) => document.main.name);
  const groups = useStudioState(({ document }) =>
    document.session.returnIds
      .map((id) => document.returns[id]!)
      .filter((one) => one.role === 'group' && one.id !== stripId),
  );
  if (groups.length === 0) return null;
  return (
    <label className="choice">
      <span>Output</span>
      <Form.Select
        aria-label="Output of this strip"
        value={strip.outputId}
        onChange={(event) =>
          studio.editor.perform(
            { type: 'strip.set', id: stripId, values: { outputId: event.target.value } },
            `Output of ${strip.name}`,
          )
        }
      >
        <option value={MAIN_ID}>{mainName}</option>
        {groups.map((group) => (
          <option key={group.id} value={group.id}>
            {group.name}
          </option>
        ))}
      </Form.Select>
    </label>
  );
}
