'use client';

import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { GripVertical, Plus, Power, X } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import { EFFECTS, findEffect } from '@/core/effects/registry';
import { findParameter } from '@/core/effects/spec';
import { timingOf } from '@/core/session/compile';
import { MAIN_ID, stripOf, type Insert } from '@/core/session/records';
import { GAIN_PARAMETER, PAN_PARAMETER } from '@/core/session/stripParameters';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { Ruler } from '../ui/Ruler';
import { EchogramMini } from './EchogramPicture';
import { ParameterControl } from './ParameterControl';
import { useEchogram } from './useEchogram';

const MINI_SLOTS = 1500;

/** The selected strip from top to bottom in signal order: source, effects, fader and pan. */
export function Chain() {
  const studio = useStudio();
  const { document, stripId, insertId } = useStudioState(({ document, stripId, insertId }) => ({
    document,
    stripId,
    insertId,
  }));
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const strip = stripOf(document, stripId)!;
  const timing = timingOf(document);
  const clips = Object.values(document.clips).filter((clip) => clip.trackId === stripId).length;
  const moved = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    studio.perform(
      { type: 'insert.move', id: String(active.id), to: strip.insertIds.indexOf(String(over.id)) },
      'Reorder effects',
    );
  };
  const level = (parameter: typeof GAIN_PARAMETER, key: 'gainDb' | 'pan') => {
    const command = (value: unknown) => ({
      type: 'strip.set' as const,
      id: strip.id,
      values: { [key]: value as number },
    });
    const label = `${strip.name}: ${parameter.name}`;
    return (
      <Ruler
        parameter={parameter}
        value={strip[key]}
        timing={timing}
        signal="dry"
        onPreview={(value) => studio.preview(command(value), label)}
        onSettle={() => studio.settle()}
      />
    );
  };
  return (
    <aside className="chain" aria-label={`Signal path of ${strip.name}`}>
      <div className="caption">
        <h2 title={strip.name}>{strip.name}, signal path</h2>
        <Dropdown align="end">
          <Dropdown.Toggle as="button" type="button" className="plain-button" bsPrefix="add-effect">
            <Plus size={12} aria-hidden="true" /> effect
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {EFFECTS.map((spec) => (
              <Dropdown.Item
                key={spec.id}
                as="button"
                type="button"
                title={spec.purpose}
                onClick={() => {
                  const id = newId();
                  const index = strip.insertIds.length;
                  if (studio.perform({ type: 'insert.add', stripId, id, effect: spec.id, index }, `Add ${spec.name}`))
                    studio.selectInsert(id);
                }}
              >
                <b>{spec.name}</b>
                <small>{spec.purpose}</small>
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      </div>
      <div className="step step-source">
        {stripId === MAIN_ID ? 'The sum of all tracks' : `${clips} ${clips === 1 ? 'clip' : 'clips'}`}
      </div>
      <DndContext id="chain" sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
        <SortableContext items={strip.insertIds} strategy={verticalListSortingStrategy}>
          {strip.insertIds.map((id) => (
            <Step key={id} insert={document.inserts[id]!} selected={id === insertId} />
          ))}
        </SortableContext>
      </DndContext>
      {strip.insertIds.length === 0 && (
        <p className="empty-hint step">No effects: what you hear is the plain sound. Add one with “+ effect”.</p>
      )}
      <section className="step">
        <h3>Fader</h3>
        {level(GAIN_PARAMETER, 'gainDb')}
        {level(PAN_PARAMETER, 'pan')}
      </section>
    </aside>
  );
}

function Step({ insert, selected }: { insert: Insert; selected: boolean }) {
  const studio = useStudio();
  const timing = useStudioState(({ document }) => timingOf(document));
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: insert.id,
  });
  const spec = findEffect(insert.effect)!;
  return (
    <section
      ref={setNodeRef}
      className={`step ${selected ? 'step-selected' : ''} ${insert.bypass ? 'step-bypassed' : ''}`}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      aria-label={spec.name}
      onPointerDown={() => !selected && studio.selectInsert(insert.id)}
    >
      <h3>
        <button
          type="button"
          ref={setActivatorNodeRef}
          className="grip"
          {...attributes}
          {...listeners}
          aria-label={`Move ${spec.name}`}
        >
          <GripVertical size={12} aria-hidden="true" />
        </button>
        <button
          type="button"
          className="step-name"
          title="Open it large"
          onClick={() => {
            studio.selectInsert(insert.id);
            studio.set({ view: 'effect' });
          }}
        >
          {spec.name}
        </button>
        <span className="step-tools">
          <button
            type="button"
            className="icon-button"
            aria-pressed={insert.bypass}
            aria-label={`Bypass ${spec.name}`}
            title={insert.bypass ? 'Bypassed: press to hear it' : 'Bypass'}
            onClick={() =>
              studio.perform(
                { type: 'insert.bypass', id: insert.id, bypass: !insert.bypass },
                `${insert.bypass ? 'Hear' : 'Bypass'} ${spec.name}`,
              )
            }
          >
            <Power size={13} aria-hidden="true" />
          </button>
          <button
            type="button"
            className="icon-button"
            aria-label={`Remove ${spec.name}`}
            title="Remove"
            onClick={() => studio.perform({ type: 'insert.remove', id: insert.id }, `Remove ${spec.name}`)}
          >
            <X size={13} aria-hidden="true" />
          </button>
        </span>
      </h3>
      {insert.effect === 'delay' && <Picture insertId={insert.id} />}
      {spec.main.map((id) => (
        <ParameterControl
          key={id}
          insert={insert}
          parameter={findParameter(spec, id)!}
          timing={timing}
          context={spec.name}
        />
      ))}
    </section>
  );
}

function Picture({ insertId }: { insertId: string }) {
  const timing = useStudioState(({ document }) => timingOf(document));
  const seconds = Math.min(20, (8 * timing.beatsPerBar * 60) / timing.tempoBpm);
  return <EchogramMini echogram={useEchogram(insertId, seconds, MINI_SLOTS)} timing={timing} />;
}
