'use client';

import { useState, type ReactNode } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { findEffect } from '@/core/effects/registry';
import {
  defaultValues,
  findParameter,
  isActive,
  type EffectSpec,
  type ListSpec,
  type Parameter,
} from '@/core/effects/spec';
import { allStrips, stripOfInsert, type Insert } from '@/core/session/records';
import { mirrorCommand } from '../session/mirroring';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { columnsOf, groupsOf } from './columns';
import { DelayLines } from './DelayLines';
import { DelayRouting } from './DelayRouting';
import { EffectPicture } from './EffectPicture';
import { DifferenceButton, ExaggerateButton } from './EffectTools';
import { KeyChoice } from './KeyChoice';
import { ParameterControl } from './ParameterControl';
import { PresetPanel } from './PresetPanel';

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
  const isDelay = insert.effect === 'delay';
  const [item, setItem] = useState(1);
  const values = { ...defaultValues(spec), ...insert.values };
  const [page, setPage] = useState<DelayPage>('line');
  const main = spec.main.map((id) => id.replace(/\.1\./, `.${item}.`));
  const groups = groupsOf(spec, long, item, main).filter(([name]) => !isDelay || pageOf(name) === page);
  const controls = (parameters: readonly Parameter[]) => (
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
        {insert.effect === 'eq' && <MirrorMenu insert={insert} />}
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
      {isDelay && <DelayLines insert={insert} line={item} onLine={setItem} />}
      {long && !isDelay && <ItemTabs list={long} insert={insert} item={item} onItem={setItem} />}
      <div className="effect-main" role="group" aria-label="Main controls">
        {main.map((id) => (
          <ParameterControl key={id} insert={insert} parameter={findParameter(spec, id)!} />
        ))}
      </div>
      {isDelay && (
        <div className="picture-choice" role="group" aria-label="Controls">
          {(Object.keys(DELAY_PAGES) as DelayPage[]).map((one) => (
            <button key={one} type="button" aria-pressed={page === one} onClick={() => setPage(one)}>
              {one === 'line' ? `Line ${item}` : DELAY_PAGES[one]}
            </button>
          ))}
        </div>
      )}
      <div className="effect-groups">
        {columnsOf(groups, long && !isDelay ? ` ${item}` : null).map(({ groups, wide }) => (
          <div key={groups[0]![0]} className={wide ? 'column-wide' : undefined}>
            {groups.map(([name, parameters]) =>
              isDelay && name === 'Flow' ? (
                <DelayRouting key={name} insert={insert}>
                  {controls(parameters)}
                </DelayRouting>
              ) : (
                <Group key={name} name={name}>
                  {(name === 'Key' || name === 'Duck') && spec.keyed && (
                    <KeyChoice insert={insert} strip={strip} context={`${spec.name}, large:`} />
                  )}
                  {controls(parameters)}
                </Group>
              ),
            )}
          </div>
        ))}
      </div>
    </div>
  );
}

/** The controls of a delay are many: they are shown by parts. */
const DELAY_PAGES = { line: 'Line', flow: 'Flow', whole: 'Wear, ducking, safety' } as const;
type DelayPage = keyof typeof DELAY_PAGES;

function pageOf(group: string): DelayPage {
  if (group === 'Flow') return 'flow';
  return / \d+$/.test(group) ? 'line' : 'whole';
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
