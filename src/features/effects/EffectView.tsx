'use client';

import { useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { findEffect } from '@/core/effects/registry';
import { defaultValues, isActive, type EffectSpec, type ListSpec, type Parameter } from '@/core/effects/spec';
import { timingOf } from '@/core/session/compile';
import { allStrips, stripOfInsert, type Insert } from '@/core/session/records';
import { mirrorCommand } from '../session/mirroring';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { ReductionHistory } from '../ui/ReductionHistory';
import { BandPicture } from './BandPicture';
import { CurvePicture } from './CurvePicture';
import { EchogramPicture } from './EchogramPicture';
import { KeyChoice } from './KeyChoice';
import { ParameterControl } from './ParameterControl';
import { PresetPanel } from './PresetPanel';
import { ReductionBar } from './ReductionBar';
import { useEchogram } from './useEchogram';
import { usePicture } from './usePicture';

const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];
const SLOTS = 4000;

/** The selected effect, large: its picture and all its controls in signal order. */
export function EffectView() {
  const { document, insertId } = useStudioState(({ document, insertId }) => ({ document, insertId }));
  const insert = insertId === null ? undefined : document.inserts[insertId];
  if (!insert) {
    return (
      <div className="empty-view">
        <h2>No effect here yet</h2>
        <p>
          Add one in the signal path on the right with “+ effect”; it opens here with its picture and all its controls.
        </p>
      </div>
    );
  }
  return <OpenEffect key={insert.id} insert={insert} />;
}

function OpenEffect({ insert }: { insert: Insert }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const spec = findEffect(insert.effect)!;
  const strip = stripOfInsert(document, insert.id)!;
  const place = strip.insertIds.indexOf(insert.id);
  const long = spec.lists.find((list) => list.count > 1);
  const [item, setItem] = useState(1);
  return (
    <div className="effect-view">
      <header className="effect-head">
        <h2>{spec.name}</h2>
        <span className="effect-place" title={spec.purpose}>
          on {strip.name}
          {strip.insertIds.length > 1
            ? `, ${ORDINALS[place] ?? `number ${place + 1}`} of ${strip.insertIds.length}`
            : ''}
        </span>
        {insert.effect === 'eq' && <MirrorMenu insert={insert} />}
        <EffectPresets insert={insert} spec={spec} />
        <button
          type="button"
          className="button"
          aria-pressed={insert.bypass}
          onClick={() =>
            studio.perform(
              { type: 'insert.bypass', id: insert.id, bypass: !insert.bypass },
              `${insert.bypass ? 'Hear' : 'Bypass'} ${spec.name}`,
            )
          }
        >
          {insert.bypass ? 'Bypassed' : 'Bypass'}
        </button>
      </header>
      <EffectPicture insert={insert} spec={spec} item={item} onItem={setItem} />
      {long && <ItemTabs list={long} insert={insert} item={item} onItem={setItem} />}
      <div className="effect-groups">
        {groupsOf(spec, long, item).map(([name, parameters]) => (
          <section
            key={name}
            aria-label={name}
            className={long && name.endsWith(` ${item}`) ? 'group-wide' : undefined}
          >
            <h3>{name}</h3>
            {name === 'Key' && <KeyChoice insert={insert} strip={strip} context={`${spec.name}, large:`} />}
            <div className="group-controls">
              {parameters
                .filter((parameter) => isActive(parameter, insert.values))
                .map((parameter) => (
                  <ParameterControl key={parameter.id} insert={insert} parameter={parameter} />
                ))}
            </div>
          </section>
        ))}
      </div>
    </div>
  );
}

function EffectPicture(props: { insert: Insert; spec: EffectSpec; item: number; onItem: (item: number) => void }) {
  const { insert, spec, item, onItem } = props;
  if (spec.picture === 'echogram') return <DelayPicture insertId={insert.id} />;
  if (insert.effect === 'eq') return <BandPicture insert={insert} item={item} onItem={onItem} />;
  return (
    <>
      <PlainPicture insert={insert} spec={spec} />
      {spec.reduces && (
        <div className="reduction-large">
          <ReductionHistory insertId={insert.id} />
          <ReductionBar insertId={insert.id} />
        </div>
      )}
    </>
  );
}

function PlainPicture({ insert, spec }: { insert: Insert; spec: EffectSpec }) {
  return <CurvePicture picture={usePicture(insert)} label={`${spec.name}, as the engine answers a test sound`} />;
}

/** Chooses which item of a list the controls below belong to. */
function ItemTabs(props: { list: ListSpec; insert: Insert; item: number; onItem: (item: number) => void }) {
  const { list, insert, item, onItem } = props;
  return (
    <div className="item-tabs">
      <span>{list.itemName}s</span>
      <div role="tablist" aria-label={`${list.itemName}s`}>
        {Array.from({ length: list.count }, (_, index) => index + 1).map((one) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={one === item}
            aria-label={`${list.itemName} ${one}`}
            className={insert.values[`${list.id}.${one}.on`] === false ? 'item-off' : undefined}
            onClick={() => onItem(one)}
          >
            {one}
          </button>
        ))}
      </div>
    </div>
  );
}

/**
 * Parameters under their headings, in order; of a long list only those of one item. Solo is there for when several
 * lines share an effect.
 */
function groupsOf(spec: EffectSpec, long: ListSpec | undefined, item: number): [string, Parameter[]][] {
  const groups = new Map<string, Parameter[]>();
  const alone = spec.lists.every((list) => list.count === 1);
  for (const parameter of spec.parameters) {
    if (alone && parameter.id.endsWith('.solo')) continue;
    if (long && parameter.id.startsWith(`${long.id}.`) && !parameter.id.startsWith(`${long.id}.${item}.`)) continue;
    const name = long && parameter.id.startsWith(`${long.id}.`) ? `${parameter.group} ${item}` : parameter.group;
    groups.set(name, [...(groups.get(name) ?? []), parameter]);
  }
  return [...groups];
}

function DelayPicture({ insertId }: { insertId: string }) {
  const session = useStudioState(({ document }) => document.session);
  const timing = useStudioState(({ document }) => timingOf(document));
  const seconds = Math.min(24, (8 * timing.beatsPerBar * 60) / timing.tempoBpm);
  return (
    <EchogramPicture
      echogram={useEchogram(insertId, seconds, SLOTS)}
      timing={timing}
      beatQuarters={4 / session.metreUnit}
    />
  );
}

function EffectPresets({ insert, spec }: { insert: Insert; spec: EffectSpec }) {
  const studio = useStudio();
  const audition = (name: string, values: Insert['values']) =>
    studio.preview(
      { type: 'insert.set', id: insert.id, values: { ...defaultValues(spec), ...values } },
      `${spec.name}: ${name}`,
    );
  const current = spec.presets.find((preset) => {
    const values = { ...defaultValues(spec), ...preset.values };
    return Object.entries(values).every(([id, value]) => insert.values[id] === value);
  });
  return (
    <PresetPanel
      label={`Presets of ${spec.name}${current ? `, now ${current.name}` : ''}`}
      word={current?.name ?? 'Presets'}
      className="button"
      kind="effect"
      shipped={spec.presets.map((preset) => ({
        id: `factory/${spec.id}/${preset.id}`,
        name: preset.name,
        tags: [preset.purpose],
        saved: null,
        audition: () => audition(preset.name, preset.values),
      }))}
      fits={(preset) => preset.kind === 'effect' && preset.effects[0]!.effect === spec.id}
      audition={(preset) => audition(preset.name, preset.effects[0]!.values)}
      now={() => [{ effect: insert.effect, bypass: insert.bypass, values: insert.values }]}
    />
  );
}

/** Puts the opposite of an equalizer onto another track, so that two sounds keep out of each other's way. */
function MirrorMenu({ insert }: { insert: Insert }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const own = stripOfInsert(document, insert.id)!;
  return (
    <Dropdown align="end">
      <Dropdown.Toggle as="button" type="button" className="button" bsPrefix="preset-toggle">
        Mirror ▾
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Header>What is lifted here is lowered on</Dropdown.Header>
        {allStrips(document)
          .filter((strip) => strip.id !== own.id)
          .map((strip) => (
            <Dropdown.Item
              key={strip.id}
              as="button"
              type="button"
              onClick={() =>
                studio.perform(
                  mirrorCommand(studio.state.document, insert, strip.id, newId()),
                  `Mirror onto ${strip.name}`,
                )
              }
            >
              {strip.name}
            </Dropdown.Item>
          ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
