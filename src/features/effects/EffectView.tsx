'use client';

import { useState, type ReactNode } from 'react';
import { CircleHelp } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Nav from 'react-bootstrap/Nav';
import { findEffect } from '@/core/effects/registry';
import { controlsOf, defaultValues, isActive, type Control, type EffectSpec, type ListSpec } from '@/core/effects/spec';
import { stripOfInsert } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import type { Strip } from '@/core/session/records/strips';
import { flipBypass } from '../session/effectWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useInsert } from '../session/useRecords';
import { FoldHeading } from '../ui/FoldHeading';
import { useFolds } from '../ui/useFolds';
import { columnsOf, groupsOf, standsBeside, type ControlGroup } from './columns';
import { EffectPicture } from './pictures/EffectPicture';
import { DifferenceButton, ExaggerateButton } from './EffectTools';
import { InputChoice } from './chain/InputChoice';
import { mainOf, useItem } from './items';
import { NotesChoice } from './chain/NotesChoice';
import { ParameterControl } from './ParameterControl';
import { PresetPanel } from './PresetPanel';
import { SoundNow } from './SoundNow';
import { VIEWS } from './views.generated';

/** Up to so many controls, all groups begin open. */
const MOST_OPEN = 24;
const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];

/** The selected effect, large: its picture and all its controls in signal order. */
export function EffectView() {
  const insertId = useStudioState(({ document, insertId }) =>
    insertId !== null && document.inserts[insertId] ? insertId : null,
  );
  if (insertId === null) {
    return (
      <div className="empty-view">
        <h2>No effect here yet</h2>
        <p>
          Add one in the signal path on the right with “+ effect”; it opens here with its picture and all its controls.
        </p>
      </div>
    );
  }
  return <OpenEffect key={insertId} insertId={insertId} />;
}

/** Parts of an effect that are drawn anew with every change of its values. */
function Followed({ insertId, children }: { insertId: string; children: (insert: Insert) => ReactNode }) {
  const insert = useInsert(insertId);
  return insert ? children(insert) : null;
}

/** Its frame: a control that is moved draws itself, and the frame only when that shows or hides others. */
function OpenEffect({ insertId }: { insertId: string }) {
  const { effect, strip } = useStudioState(({ document }) => ({
    effect: document.inserts[insertId]!.effect,
    strip: stripOfInsert(document, insertId)!,
  }));
  const spec = findEffect(effect)!;
  const studio = useStudio();
  const idle = useStudioState(({ document }) => idleControls(spec, document.inserts[insertId]?.values ?? {}));
  const long = spec.lists.find((list) => list.count > 1);
  const {
    Items,
    Tools,
    pages = [],
    groups: frames = {},
    shows,
    withSpectrum,
    withScope,
    ...extras
  } = VIEWS[effect] ?? {};
  const [item, setItem] = useItem(insertId);
  const [pageId, setPageId] = useState(pages[0]?.id);
  const page = pages.find(({ id }) => id === pageId);
  const main = mainOf(spec, item);
  const isShown = ({ id }: { readonly id: string }) => !idle.includes(id);
  const whole = groupsOf(spec, long, item, shows).filter(([name]) => page?.holds(name) ?? true);
  const beside = extras.beside ?? standsBeside(spec, whole);
  const all = whole.map(([name, parameters]): ControlGroup => [name, parameters.filter(isShown)]);
  const isLong = all.reduce((sum, [, { length }]) => sum + length, 0) > MOST_OPEN;
  const [opened, setOpened] = useFolds();
  const foldOf = (name: string) => `${effect}/${name.replace(/ \d+$/, '')}`;
  const isOpen = (name: string) => frames[name] !== undefined || (opened[foldOf(name)] ?? !isLong);
  const groups = all.map(([name, parameters]): ControlGroup =>
    isOpen(name) ? [name, parameters] : [name, parameters.filter(({ id }) => main.includes(id))],
  );
  const sizes = new Map(all.map(([name, { length }]) => [name, length]));
  const names = whole.flatMap(([, parameters]) => parameters.map(({ name }) => name));
  const isRepeated = (name: string) => names.indexOf(name) !== names.lastIndexOf(name);
  const controls = (group: string, parameters: readonly Control[]) => (
    <div className="group-controls">
      {parameters.map((parameter) => (
        <div key={parameter.id} className={main.includes(parameter.id) ? 'control-main' : undefined}>
          <ParameterControl
            insertId={insertId}
            parameter={parameter}
            {...(isRepeated(parameter.name) ? { context: group } : {})}
          />
        </div>
      ))}
    </div>
  );
  return (
    <div className="effect-view">
      <header className="effect-head">
        <h2>{spec.name}</h2>
        <Button
          variant="icon"
          aria-label={`About ${spec.name}`}
          data-help={`${spec.purpose} Press for examples.`}
          onClick={() => studio.set({ drawer: 'effect', about: effect })}
        >
          <CircleHelp size={15} aria-hidden="true" />
        </Button>
        <span className="effect-place" title={spec.purpose}>
          {placeOf(strip, insertId)}
        </span>
        {Tools && <Followed insertId={insertId}>{(insert) => <Tools insert={insert} />}</Followed>}
        <ExaggerateButton insertId={insertId} spec={spec} />
        <DifferenceButton insertId={insertId} />
        <Followed insertId={insertId}>{(insert) => <EffectPresets insert={insert} spec={spec} />}</Followed>
        <BypassButton insertId={insertId} />
      </header>
      <div className={beside ? 'effect-beside' : undefined}>
        <Followed insertId={insertId}>
          {(insert) => <EffectPicture insert={insert} spec={spec} item={item} onItem={setItem} />}
        </Followed>
        {Items && (
          <Followed insertId={insertId}>{(insert) => <Items insert={insert} item={item} onItem={setItem} />}</Followed>
        )}
        {long && !Items && (
          <Followed insertId={insertId}>
            {(insert) => <ItemTabs list={long} insert={insert} item={item} onItem={setItem} />}
          </Followed>
        )}
        <NotesChoice insertId={insertId} context={`${spec.name}, large:`} />
        {pages.length > 0 && (
          <div className="picture-choice" role="group" aria-label="Controls">
            {pages.map(({ id, name }) => (
              <Button bsPrefix="bare" key={id} aria-pressed={id === pageId} onClick={() => setPageId(id)}>
                {name(item)}
              </Button>
            ))}
          </div>
        )}
        <div className="effect-groups" role="group" aria-label={`Controls of ${spec.name}`}>
          {columnsOf(groups, long && pages.length === 0 ? ` ${item}` : null, beside).map(({ groups, wide, tall }) => (
            <div key={groups[0]![0]} className={wide ? 'column-wide' : tall ? 'column-tall' : undefined}>
              {groups.map(([name, parameters]) => {
                const Frame = frames[name];
                const hidden = sizes.get(name)! - parameters.length;
                return Frame ? (
                  <Followed key={name} insertId={insertId}>
                    {(insert) => <Frame insert={insert}>{controls(name, parameters)}</Frame>}
                  </Followed>
                ) : (
                  <section key={name} aria-label={name}>
                    <FoldHeading
                      name={name}
                      isOpen={isOpen(name)}
                      note={hidden > 0 ? `${hidden} more` : undefined}
                      onToggle={() => setOpened(foldOf(name), !isOpen(name))}
                    />
                    {isOpen(name) &&
                      (spec.inputs ?? [])
                        .filter(({ group, id }) => group === name && !idle.includes(id))
                        .map((input) => (
                          <InputChoice
                            key={input.id}
                            input={input}
                            insertId={insertId}
                            strip={strip}
                            context={`${spec.name}, large:`}
                          />
                        ))}
                    {controls(name, parameters)}
                  </section>
                );
              })}
            </div>
          ))}
        </div>
      </div>
      <SoundNow
        key={insertId}
        insertId={insertId}
        strip={strip}
        open={beside}
        spectrum={!withSpectrum}
        scope={!withScope}
      />
    </div>
  );
}

/** Controls that do nothing at these values. */
function idleControls(spec: EffectSpec, values: Insert['values']): string[] {
  const all = { ...defaultValues(spec), ...values };
  return [...controlsOf(spec), ...(spec.inputs ?? [])].filter((one) => !isActive(one, all)).map(({ id }) => id);
}

function placeOf({ name, insertIds }: Strip, insertId: string): string {
  const place = insertIds.indexOf(insertId);
  if (place < 0) return `where ${name} stands on the stage`;
  const order = `, ${ORDINALS[place] ?? `number ${place + 1}`} of ${insertIds.length}`;
  return `on ${name}${insertIds.length > 1 ? order : ''}`;
}

function BypassButton({ insertId }: { insertId: string }) {
  const studio = useStudio();
  const bypass = useStudioState(({ document }) => document.inserts[insertId]?.bypass ?? false);
  return (
    <Button variant="line" aria-pressed={bypass} onClick={() => flipBypass(studio, insertId)}>
      {bypass ? 'Bypassed' : 'Bypass'}
    </Button>
  );
}

/** Chooses which item of a list the controls below belong to. */
function ItemTabs(props: { list: ListSpec; insert: Insert; item: number; onItem: (item: number) => void }) {
  const { list, insert, item, onItem } = props;
  return (
    <div className="item-tabs">
      <span>{list.itemName}s</span>
      <Nav
        as="div"
        role="tablist"
        aria-label={`${list.itemName}s`}
        activeKey={item}
        onSelect={(key) => onItem(Number(key))}
      >
        {Array.from({ length: list.count }, (_, index) => index + 1).map((one) => (
          <Nav.Link
            as="button"
            type="button"
            key={one}
            eventKey={one}
            aria-label={`${list.itemName} ${one}`}
            className={insert.values[`${list.id}.${one}.on`] === false ? 'item-off' : undefined}
          >
            {one}
          </Nav.Link>
        ))}
      </Nav>
    </div>
  );
}

function EffectPresets({ insert, spec }: { insert: Insert; spec: EffectSpec }) {
  const studio = useStudio();
  const audition = (name: string, values: Insert['values']) =>
    studio.editor.preview(
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
      variant="line"
      kind="effect"
      shipped={spec.presets.map((preset) => ({
        id: `factory/${spec.id}/${preset.id}`,
        name: preset.name,
        tags: [preset.purpose],
        help: preset.help,
        synonyms: preset.synonyms,
        saved: null,
        audition: () => audition(preset.name, preset.values),
      }))}
      fits={(preset) => preset.kind === 'effect' && preset.effects[0]!.effect === spec.id}
      audition={(preset) => audition(preset.name, preset.effects[0]!.values)}
      now={() => [{ effect: insert.effect, bypass: insert.bypass, values: insert.values }]}
    />
  );
}
