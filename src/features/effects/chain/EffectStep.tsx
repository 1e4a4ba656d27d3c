'use client';

import { memo } from 'react';
import { useSortable } from '@dnd-kit/sortable';
import { EllipsisVertical, GripVertical, Power, X } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import Button from 'react-bootstrap/Button';
import { findEffect } from '@/core/effects/registry';
import { findParameter } from '@/core/effects/spec';
import { allStrips, timingOf } from '@/core/session/records/queries';
import type { Strip } from '@/core/session/records/strips';
import { copyEffect, flipBypass, removeEffect } from '../../session/effectWork';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { EchogramMini } from '../pictures/EchogramPicture';
import { takesLevelAway } from '../../controls/reduction';
import { useCount } from '../../ui/useCount';
import { InputChoice } from './InputChoice';
import { mainOf, useItem } from '../items';
import { NotesChoice } from './NotesChoice';
import { ParameterControl } from '../ParameterControl';
import { MiniPicture } from '../pictures/MiniPicture';
import { ReductionBar } from '../pictures/ReductionBar';
import { longestSpan, useEchograms } from '../pictures/pictures';

/** An effect in the signal path: its picture and, where no view shows one large, its main controls. */
export const EffectStep = memo(function EffectStep(props: { insertId: string; strip: Strip; selected: boolean }) {
  const { insertId, strip, selected } = props;
  const studio = useStudio();
  const { effect, bypass } = useStudioState(({ document }) => {
    const { effect, bypass } = document.inserts[insertId]!;
    return { effect, bypass };
  });
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: insertId,
  });
  const spec = findEffect(effect)!;
  // Several of a kind are numbered from the second on.
  const number = useStudioState(({ document }) => {
    const alike = strip.insertIds.filter((id) => document.inserts[id]?.effect === effect);
    return alike.indexOf(insertId) + 1;
  });
  const label = number > 1 ? `${spec.name} ${number}` : spec.name;
  const [item] = useItem(insertId);
  const isFolded = useStudioState(({ view }) => view === 'effect');
  return (
    <section
      ref={setNodeRef}
      className={`step ${selected ? 'step-selected' : ''} ${bypass || strip.bypass ? 'step-bypassed' : ''}`}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      aria-label={label}
      data-menu={`effect ${insertId}`}
      onPointerDown={() => !selected && studio.selection.selectInsert(insertId)}
    >
      <h3>
        <Button
          ref={setActivatorNodeRef}
          bsPrefix="grip"
          {...attributes}
          {...listeners}
          aria-label={`Move ${spec.name}`}
        >
          <GripVertical size={12} aria-hidden="true" />
        </Button>
        <Button
          bsPrefix="step-name"
          title="Open it large"
          onClick={() => {
            studio.selection.selectInsert(insertId);
            studio.set({ view: 'effect' });
          }}
        >
          {spec.name}
        </Button>
        <Faults insertId={insertId} name={spec.name} />
        <Waiting insertId={insertId} />
        <span className="step-tools">
          <CopyMenu insertId={insertId} strip={strip} name={spec.name} />
          <Button
            variant="icon"
            aria-pressed={bypass}
            aria-label={`Bypass ${spec.name}`}
            title={bypass ? 'Bypassed: press to hear it' : 'Bypass'}
            onClick={() => flipBypass(studio, insertId)}
          >
            <Power size={13} aria-hidden="true" />
          </Button>
          <Button
            variant="icon"
            aria-label={`Remove ${spec.name}`}
            title="Remove"
            onClick={() => removeEffect(studio, insertId)}
          >
            <X size={13} aria-hidden="true" />
          </Button>
        </span>
      </h3>
      {/* What plays notes has no answer to a click that would tell anything. */}
      {spec.playsNotes ? null : spec.picture === 'echogram' ? (
        <EchoPicture insertId={insertId} />
      ) : (
        <MiniPicture insertId={insertId} />
      )}
      <Reduction insertId={insertId} strip={strip} isFolded={isFolded} />
      {!isFolded && (
        <>
          <NotesChoice insertId={insertId} context={label} />
          {item > 1 && <p className="step-item">{`${spec.lists[0]!.itemName} ${item}`}</p>}
          {mainOf(spec, item).map((id) => (
            <ParameterControl key={id} insertId={insertId} parameter={findParameter(spec, id)!} context={label} />
          ))}
        </>
      )}
    </section>
  );
});

/** Its gain reduction now, and the level that it is taken from. */
function Reduction(props: { insertId: string; strip: Strip; isFolded: boolean }) {
  const { insertId, strip, isFolded } = props;
  const { effect, reduces } = useStudioState(({ document }) => {
    const insert = document.inserts[insertId]!;
    return { effect: insert.effect, reduces: takesLevelAway(insert) };
  });
  const heard = useStudioState(({ document }) => Object.keys(document.inserts[insertId]!.inputs));
  const spec = findEffect(effect)!;
  return (
    <>
      {reduces && <ReductionBar insertId={insertId} />}
      {(isFolded ? [] : (spec.inputs ?? []))
        .filter(({ id }) => reduces || heard.includes(id))
        .map((input) => (
          <InputChoice key={input.id} input={input} insertId={insertId} strip={strip} context={spec.name} />
        ))}
    </>
  );
}

/** Says that the dry sound is heard while an effect's own is on its way. */
function Waiting({ insertId }: { insertId: string }) {
  const waits = useStudioState(({ waitingInserts }) => waitingInserts.includes(insertId));
  return waits ? <small className="step-waiting">preparing: dry until then</small> : null;
}

/** Says that an effect broke and was reset, until it is pressed. */
function Faults({ insertId, name }: { insertId: string; name: string }) {
  const studio = useStudio();
  const [faults, clear] = useCount(() => studio.engine.faults(insertId));
  if (faults === 0) return null;
  return (
    <Button
      bsPrefix="step-fault"
      aria-label={`${name} broke and was reset ${faults} times. Clear`}
      title="Invalid output: the effect was reset. Press to clear."
      onClick={clear}
    >
      reset {faults}×
    </Button>
  );
}

function CopyMenu({ insertId, strip, name }: { insertId: string; strip: Strip; name: string }) {
  const studio = useStudio();
  const strips = useStudioState(({ document }) => allStrips(document));
  const copyTo = (target: Strip) => copyEffect(studio, insertId, target);
  return (
    <Dropdown align="end">
      <Dropdown.Toggle variant="icon" bsPrefix="copy-toggle" aria-label={`Copy ${name}`} title="Copy it">
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
