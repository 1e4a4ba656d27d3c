'use client';

import Dropdown from 'react-bootstrap/Dropdown';
import { findEffect } from '@/core/effects/registry';
import { defaultValues, isActive, type EffectSpec, type Parameter } from '@/core/effects/spec';
import { timingOf } from '@/core/session/compile';
import { stripOfInsert, type Insert } from '@/core/session/records';
import { useStudio, useStudioState } from '../session/StudioContext';
import { EchogramPicture } from './EchogramPicture';
import { ParameterControl } from './ParameterControl';
import { useEchogram } from './useEchogram';

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
  const timing = timingOf(document);
  const groups = groupsOf(spec);
  return (
    <div className="effect-view">
      <header className="effect-head">
        <h2>{spec.name}</h2>
        <span className="effect-place">
          on {strip.name}
          {strip.insertIds.length > 1
            ? `, ${ORDINALS[place] ?? `number ${place + 1}`} of ${strip.insertIds.length}`
            : ''}
        </span>
        <PresetMenu insert={insert} spec={spec} />
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
      {insert.effect === 'delay' ? (
        <DelayPicture insertId={insert.id} />
      ) : (
        <p className="effect-purpose">{spec.purpose}</p>
      )}
      <div className="effect-groups">
        {groups.map(([name, parameters]) => (
          <section key={name} aria-label={name}>
            <h3>{name}</h3>
            {parameters
              .filter((parameter) => isActive(parameter, insert.values))
              .map((parameter) => (
                <ParameterControl key={parameter.id} insert={insert} parameter={parameter} timing={timing} />
              ))}
          </section>
        ))}
      </div>
    </div>
  );
}

/** Parameters under their headings, in order. Solo is there for when several lines share an effect. */
function groupsOf(spec: EffectSpec): [string, Parameter[]][] {
  const groups = new Map<string, Parameter[]>();
  const alone = spec.lists.every((list) => list.count === 1);
  for (const parameter of spec.parameters) {
    if (alone && parameter.id.endsWith('.solo')) continue;
    groups.set(parameter.group, [...(groups.get(parameter.group) ?? []), parameter]);
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

function PresetMenu({ insert, spec }: { insert: Insert; spec: EffectSpec }) {
  const studio = useStudio();
  const purposes = [...new Set(spec.presets.map((preset) => preset.purpose))];
  const current = spec.presets.find((preset) => {
    const values = { ...defaultValues(spec), ...preset.values };
    return Object.entries(values).every(([id, value]) => insert.values[id] === value);
  });
  return (
    <Dropdown align="end" className="preset-menu">
      <Dropdown.Toggle as="button" type="button" className="button" bsPrefix="preset-toggle">
        {current?.name ?? 'Presets'} ▾
      </Dropdown.Toggle>
      <Dropdown.Menu>
        {purposes.map((purpose) => (
          <div key={purpose} role="group" aria-label={purpose}>
            <Dropdown.Header>{purpose}</Dropdown.Header>
            {spec.presets
              .filter((preset) => preset.purpose === purpose)
              .map((preset) => (
                <Dropdown.Item
                  key={preset.id}
                  as="button"
                  type="button"
                  onClick={() =>
                    studio.perform(
                      { type: 'insert.set', id: insert.id, values: { ...defaultValues(spec), ...preset.values } },
                      `${spec.name}: ${preset.name}`,
                    )
                  }
                >
                  {preset.name}
                </Dropdown.Item>
              ))}
          </div>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
