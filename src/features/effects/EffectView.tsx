'use client';

import { useState, type ReactNode } from 'react';
import { findEffect } from '@/core/effects/registry';
import { defaultValues, findParameter, isActive, type EffectSpec, type ListSpec } from '@/core/effects/spec';
import { stripOfInsert, type Insert } from '@/core/session/records';
import { useStudio, useStudioState } from '../session/StudioContext';
import { columnsOf, groupsOf, type Control } from './columns';
import { EffectPicture } from './EffectPicture';
import { DifferenceButton, ExaggerateButton } from './EffectTools';
import { InputChoice } from './InputChoice';
import { ParameterControl } from './ParameterControl';
import { PresetPanel } from './PresetPanel';
import { VIEWS } from './views.generated';

const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];

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
  const { Items, Tools, pages = [], groups: frames = {}, shows } = VIEWS[insert.effect] ?? {};
  const [item, setItem] = useState(1);
  const values = { ...defaultValues(spec), ...insert.values };
  const [pageId, setPageId] = useState(pages[0]?.id);
  const page = pages.find(({ id }) => id === pageId);
  const main = spec.main.map((id) => id.replace(/\.1\./, `.${item}.`));
  const groups = groupsOf(spec, long, item, main, shows).filter(([name]) => page?.holds(name) ?? true);
  const controls = (parameters: readonly Control[]) => (
    <div className="group-controls">
      {parameters
        .filter((parameter) => isActive(parameter, values))
        .map((parameter) => (
          <ParameterControl key={parameter.id} insert={insert} parameter={parameter} />
        ))}
    </div>
  );
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
        {Tools && <Tools insert={insert} />}
        <ExaggerateButton insert={insert} spec={spec} />
        <DifferenceButton insert={insert} />
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
      {Items && <Items insert={insert} item={item} onItem={setItem} />}
      {long && !Items && <ItemTabs list={long} insert={insert} item={item} onItem={setItem} />}
      <div className="effect-main" role="group" aria-label="Main controls">
        {main.map((id) => (
          <ParameterControl key={id} insert={insert} parameter={findParameter(spec, id)!} />
        ))}
      </div>
      {pages.length > 0 && (
        <div className="picture-choice" role="group" aria-label="Controls">
          {pages.map(({ id, name }) => (
            <button key={id} type="button" aria-pressed={id === pageId} onClick={() => setPageId(id)}>
              {name(item)}
            </button>
          ))}
        </div>
      )}
      <div className="effect-groups">
        {columnsOf(groups, long && pages.length === 0 ? ` ${item}` : null).map(({ groups, wide }) => (
          <div key={groups[0]![0]} className={wide ? 'column-wide' : undefined}>
            {groups.map(([name, parameters]) => {
              const Frame = frames[name];
              return Frame ? (
                <Frame key={name} insert={insert}>
                  {controls(parameters)}
                </Frame>
              ) : (
                <Group key={name} name={name}>
                  {(spec.inputs ?? [])
                    .filter(({ group }) => group === name)
                    .map((input) => (
                      <InputChoice
                        key={input.id}
                        input={input}
                        insert={insert}
                        strip={strip}
                        context={`${spec.name}, large:`}
                      />
                    ))}
                  {controls(parameters)}
                </Group>
              );
            })}
          </div>
        ))}
      </div>
    </div>
  );
}

/** Controls under a heading that folds them away. */
function Group({ name, children }: { name: string; children: ReactNode }) {
  const [open, setOpen] = useState(true);
  return (
    <section aria-label={name}>
      <h3>
        <button type="button" className="fold" aria-expanded={open} onClick={() => setOpen(!open)}>
          <span aria-hidden="true">{open ? '▾' : '▸'}</span> {name}
        </button>
      </h3>
      {open && children}
    </section>
  );
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
