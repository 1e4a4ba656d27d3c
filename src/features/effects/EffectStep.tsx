'use client';

import { useSortable } from '@dnd-kit/sortable';
import { EllipsisVertical, GripVertical, Power, X } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import { findEffect } from '@/core/effects/registry';
import { findParameter } from '@/core/effects/spec';
import { allStrips, type Insert, type Strip, timingOf } from '@/core/session/records';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { EchogramMini } from './EchogramPicture';
import { takesLevelAway } from '../ui/reduction';
import { useCount } from '../ui/useCount';
import { InputChoice } from './InputChoice';
import { ParameterControl } from './ParameterControl';
import { MiniPicture } from './MiniPicture';
import { ReductionBar } from './ReductionBar';
import { longestSpan, useEchograms } from './pictures';

/** An effect in the signal path: its picture and its main controls. */
export function EffectStep({ insert, strip, selected }: { insert: Insert; strip: Strip; selected: boolean }) {
  const studio = useStudio();
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: insert.id,
  });
  const spec = findEffect(insert.effect)!;
  return (
    <section
      ref={setNodeRef}
      className={`step ${selected ? 'step-selected' : ''} ${insert.bypass || strip.bypass ? 'step-bypassed' : ''}`}
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
        <Faults insertId={insert.id} name={spec.name} />
        <span className="step-tools">
          <CopyMenu insert={insert} strip={strip} name={spec.name} />
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
      {spec.picture === 'echogram' ? <EchoPicture insertId={insert.id} /> : <MiniPicture insert={insert} />}
      {takesLevelAway(insert) && <ReductionBar insertId={insert.id} />}
      {(spec.inputs ?? [])
        .filter(({ id }) => takesLevelAway(insert) || insert.inputs[id])
        .map((input) => (
          <InputChoice key={input.id} input={input} insert={insert} strip={strip} context={spec.name} />
        ))}
      {spec.main.map((id) => (
        <ParameterControl key={id} insert={insert} parameter={findParameter(spec, id)!} context={spec.name} />
      ))}
    </section>
  );
}

/** Says that an effect broke and was reset, until it is pressed. */
function Faults({ insertId, name }: { insertId: string; name: string }) {
  const studio = useStudio();
  const [faults, clear] = useCount(() => studio.engine.faults(insertId));
  if (faults === 0) return null;
  return (
    <button
      type="button"
      className="step-fault"
      aria-label={`${name} broke and was reset ${faults} times. Clear`}
      title="It put out what is no sound and was reset; the rest plays on. Press to clear."
      onClick={clear}
    >
      reset {faults}×
    </button>
  );
}

function CopyMenu({ insert, strip, name }: { insert: Insert; strip: Strip; name: string }) {
  const studio = useStudio();
  const strips = useStudioState(({ document }) => allStrips(document));
  const copyTo = (target: Strip) => {
    const id = newId();
    const index = target.id === strip.id ? strip.insertIds.indexOf(insert.id) + 1 : target.insertIds.length;
    const { effect, values } = insert;
    if (
      studio.perform(
        { type: 'insert.add', stripId: target.id, id, effect, index, values },
        `Copy ${name} to ${target.name}`,
      )
    )
      studio.selectInsert(id);
  };
  return (
    <Dropdown align="end">
      <Dropdown.Toggle
        as="button"
        type="button"
        className="icon-button"
        bsPrefix="copy-toggle"
        aria-label={`Copy ${name}`}
        title="Copy it"
      >
        <EllipsisVertical size={13} aria-hidden="true" />
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Item as="button" type="button" onClick={() => copyTo(strip)}>
          Copy after this one
        </Dropdown.Item>
        <Dropdown.Header>Copy to</Dropdown.Header>
        {strips
          .filter((one) => one.id !== strip.id)
          .map((one) => (
            <Dropdown.Item key={one.id} as="button" type="button" onClick={() => copyTo(one)}>
              {one.name}
            </Dropdown.Item>
          ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}

function EchoPicture({ insertId }: { insertId: string }) {
  const timing = useStudioState(({ document }) => timingOf(document));
  const span = useStudioState(({ document }) => longestSpan(document));
  return <EchogramMini echogram={useEchograms([insertId], span)?.all ?? null} timing={timing} />;
}
