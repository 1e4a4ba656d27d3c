'use client';

import { useState, type ReactNode } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { movingBand } from '@/core/effects/chorus/spec';
import { findEffect } from '@/core/effects/registry';
import {
  defaultValues,
  findParameter,
  isActive,
  type EffectSpec,
  type ListSpec,
  type Parameter,
  type PictureKind,
} from '@/core/effects/spec';
import { timingOf } from '@/core/session/compile';
import { allStrips, stripOfInsert, type Insert } from '@/core/session/records';
import { mirrorCommand } from '../session/mirroring';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { ReductionHistory } from '../ui/ReductionHistory';
import { BandPicture } from './BandPicture';
import { CurvePicture } from './CurvePicture';
import { DelayLines } from './DelayLines';
import { DelayRouting } from './DelayRouting';
import { EchogramPicture } from './EchogramPicture';
import { DifferenceButton, ExaggerateButton } from './EffectTools';
import { KeyChoice } from './KeyChoice';
import { BandStrip, CombPicture, DelaysPicture } from './MovingPictures';
import { ParameterControl } from './ParameterControl';
import { PresetPanel } from './PresetPanel';
import { ReductionBar } from './ReductionBar';
import { linesInUse, longestSpan, useEchograms, usePicture } from './pictures';

const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];
const COLUMNS = 4;
/** Controls from which on a group takes several columns, and how many. */
const WIDE = 8;
const WIDE_COLUMNS = 3;

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
          <div key={groups[0]![0]} className={wide ? 'column-wide' : 'column'}>
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

/**
 * Parameters that have a place of their own: the arrangement of a delay and its matrix, its lines' switches, and
 * switches that belong to a figure.
 */
function placedElsewhere({ id }: Parameter, { parameters }: EffectSpec): boolean {
  if (parameters.some((one) => one.kind === 'number' && one.switchedBy === id)) return true;
  return id === 'routing' || id.startsWith('routing.') || /^lines\.\d+\.(mute|solo)$/.test(id);
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

type PictureChoice = 'own' | 'moves' | 'impulse' | 'chain';

const OWN_NAMES: Record<PictureKind, string> = {
  echogram: 'Repeats',
  response: 'Response',
  levels: 'Levels',
  shape: 'Shape',
  motion: 'Movement',
  burst: 'Burst',
  comb: 'Comb',
  delays: 'Copies',
};

function EffectPicture(props: { insert: Insert; spec: EffectSpec; item: number; onItem: (item: number) => void }) {
  const { insert, spec } = props;
  const strip = useStudioState(({ document }) => stripOfInsert(document, insert.id)!);
  const isDelay = insert.effect === 'delay';
  const [choice, setChoice] = useState<PictureChoice>('own');
  const choices: readonly (readonly [PictureChoice, string])[] = [
    ['own', OWN_NAMES[spec.picture]],
    ...(spec.movesTime && spec.picture !== 'delays' ? [['moves', 'Movement'] as const] : []),
    ...(spec.picture === 'echogram' ? [] : [['impulse', 'Impulse'] as const]),
    ['chain', `Impulse of all on ${strip.name}`],
  ];
  return (
    <div className="effect-picture">
      <div className="picture-choice" role="group" aria-label="Picture">
        {choices.map(([id, word]) => (
          <button key={id} type="button" aria-pressed={choice === id} onClick={() => setChoice(id)}>
            {word}
          </button>
        ))}
      </div>
      {choice === 'own' && <OwnPicture {...props} />}
      {choice === 'moves' && <MovesPicture insert={insert} spec={spec} />}
      {choice === 'impulse' && <ImpulsePicture key="one" insertIds={[insert.id]} byLine={false} />}
      {choice === 'chain' && <ImpulsePicture key="chain" insertIds={strip.insertIds} byLine={false} />}
      {spec.reduces && (!isDelay || lowersRepeats(insert)) && (
        <div className="reduction-large">
          {!isDelay && <ReductionHistory insertId={insert.id} />}
          <ReductionBar insertId={insert.id} />
        </div>
      )}
    </div>
  );
}

/** Whether a delay has anything to show on its reduction meter. */
function lowersRepeats({ values }: Insert): boolean {
  return Number(values.duckAmount ?? 0) > 0 || values.safety === true;
}

function OwnPicture(props: { insert: Insert; spec: EffectSpec; item: number; onItem: (item: number) => void }) {
  const { insert, spec, item, onItem } = props;
  const label = `${spec.name}, as the engine answers a test sound`;
  if (spec.picture === 'echogram') return <ImpulsePicture insertIds={[insert.id]} byLine />;
  if (spec.picture === 'comb') return <SweepPicture insert={insert} label={label} />;
  if (spec.picture === 'delays') return <MovesPicture insert={insert} spec={spec} />;
  if (insert.effect === 'eq') return <BandPicture insert={insert} item={item} onItem={onItem} />;
  return <PlainPicture insert={insert} label={label} />;
}

function PlainPicture({ insert, label }: { insert: Insert; label: string }) {
  return <CurvePicture picture={usePicture(insert)} label={label} />;
}

function ChorusBand({ insert }: { insert: Insert }) {
  const sampleRate = useStudioState(({ document }) => document.session.sampleRateHz);
  const { bandLow, bandHigh, window } = { ...defaultValues(findEffect('chorus')!), ...insert.values };
  const { lowHz, highHz } = movingBand(Number(bandLow), Number(bandHigh));
  return <BandStrip lowHz={lowHz} highHz={highHz} window={Number(window)} sampleRate={sampleRate} />;
}

function SweepPicture({ insert, label }: { insert: Insert; label: string }) {
  return <CombPicture picture={usePicture(insert)} insertId={insert.id} label={label} />;
}

function MovesPicture({ insert, spec }: { insert: Insert; spec: EffectSpec }) {
  const shape = insert.values.shape;
  const periodic = findParameter(spec, 'rate') !== undefined && shape !== 'steppedRandom' && shape !== 'smoothRandom';
  const picture = usePicture(insert, 'delays');
  return (
    <>
      <DelaysPicture
        picture={picture}
        insertId={insert.id}
        label={`${spec.name}: delays of its copies over time and what they do to the pitch, from the engine`}
        periodic={periodic && insert.values.motion !== 'grains'}
        cycles={2}
      />
      {insert.effect === 'chorus' && <ChorusBand insert={insert} />}
    </>
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

/** Parameters under their headings, in order, without those shown as main ones; of a long list those of one item. */
function groupsOf(
  spec: EffectSpec,
  long: ListSpec | undefined,
  item: number,
  main: readonly string[],
): [string, Parameter[]][] {
  const groups = new Map<string, Parameter[]>();
  for (const parameter of spec.parameters) {
    if (main.includes(parameter.id) || placedElsewhere(parameter, spec)) continue;
    if (long && parameter.id.startsWith(`${long.id}.`) && !parameter.id.startsWith(`${long.id}.${item}.`)) continue;
    const name = long && parameter.id.startsWith(`${long.id}.`) ? `${parameter.group} ${item}` : parameter.group;
    groups.set(name, [...(groups.get(name) ?? []), parameter]);
  }
  return [...groups];
}

interface Column {
  readonly groups: readonly [string, Parameter[]][];
  readonly wide: boolean;
}

/**
 * Groups as columns, in order; where there are too many, those side by side with the fewest controls share one.
 * @param ending of the names of groups that belong to one item of a list, which are wide
 */
function columnsOf(groups: readonly [string, Parameter[]][], ending: string | null): Column[] {
  const columns = groups.map((group): Column => {
    const [name, { length }] = group;
    return { groups: [group], wide: length >= WIDE || (ending !== null && name.endsWith(ending)) };
  });
  const taken = () => columns.reduce((sum, { wide }) => sum + (wide ? WIDE_COLUMNS : 1), 0);
  const size = ({ groups, wide }: Column) =>
    wide ? Infinity : groups.reduce((sum, [, { length }]) => sum + length, 0);
  while (taken() > COLUMNS) {
    let best = 0;
    const together = (at: number) => size(columns[at]!) + size(columns[at + 1]!);
    for (let at = 1; at < columns.length - 1; at++) if (together(at) < together(best)) best = at;
    if (columns.length < 2 || together(best) === Infinity) break;
    columns.splice(best, 2, { groups: [...columns[best]!.groups, ...columns[best + 1]!.groups], wide: false });
  }
  return columns;
}

/** The impulse response of an effect or of a chain, with its zoom. */
function ImpulsePicture({ insertIds, byLine }: { insertIds: readonly string[]; byLine: boolean }) {
  const document = useStudioState(({ document }) => document);
  const timing = timingOf(document);
  const [unit, setUnit] = useState<'bars' | 'ms'>(byLine ? 'bars' : 'ms');
  const [span, setSpan] = useState<number | null>(null);
  const longest = longestSpan(document);
  const found = useEchograms(insertIds, Math.min(longest, span ?? longest));
  const apart = byLine && found !== null && found.lines.length > 1;
  const only = insertIds.length === 1 ? document.inserts[insertIds[0]!] : undefined;
  const names = only && apart ? linesInUse(only).map((line) => `line ${line}`) : ['all'];
  return (
    <EchogramPicture
      echograms={found && (apart ? found.lines : [found.all])}
      names={names}
      timing={timing}
      beatQuarters={4 / document.session.metreUnit}
      span={span}
      onSpan={(seconds) => setSpan(seconds === null || seconds >= longest ? null : seconds)}
      unit={unit}
      onUnit={setUnit}
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
