'use client';

import { Plus, Trash2, X } from 'lucide-react';
import { type KeyboardEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { SHAPE_CHOICES } from '@/core/effects/oscillatorShapes';
import { findEffect } from '@/core/effects/registry';
import { findParameter, number, type NumberParameter } from '@/core/effects/spec';
import {
  MODULATOR_KINDS,
  MODULATOR_RATE,
  MODULATOR_STEPS,
  type ModulationTarget,
  type Modulator,
} from '@/core/session/records/modulators';
import { stripOfInsert, timingOf } from '@/core/session/records/queries';
import { detachCommand, followableBy, KIND_NAMES, newModulatorCommand, targetCommand } from '../session/modulating';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { Drawer } from '../controls/Drawer';
import { Ruler } from '../ui/Ruler';
import { EditableText } from '../ui/EditableText';
import { FoldCaret } from '../ui/FoldCaret';
import { usePointerDrag, type DragPoint } from '../ui/usePointerDrag';

const figure = (
  id: string,
  name: string,
  unit: NumberParameter['unit'],
  [min, max]: readonly [number, number],
  byDefault: number,
  help: string,
  scale: NumberParameter['scale'] = 'linear',
) => number({ id, name, unit, min, max, default: byDefault, scale, help });

const PHASE = figure('phaseDegrees', 'Phase', 'degrees', [0, 360], 0, 'Start of its cycle.');
const HAND = figure('hand', 'Position', '%', [0, 100], 0, 'Set by this ruler, or by a MIDI controller.');
const SMOOTHING = figure('smoothing', 'Smoothing', 'ms', [0, 2000], 0, 'Rounds its movement off.');
const ATTACK = figure('attack', 'Attack', 'ms', [0.1, 1000], 10, 'How fast it rises with the sound.', 'log');
const RELEASE = figure('release', 'Release', 'ms', [1, 10000], 250, 'How slowly it falls after it.', 'log');
const SENSITIVITY = figure('sensitivityDb', 'Sensitivity', 'dB', [-24, 48], 12, 'Added to the level it follows.');
const DEPTH = figure('depth', 'Depth', '%', [-100, 100], 20, 'How far it moves the parameter, as a part of its ruler.');

const POLARITIES: readonly (readonly [ModulationTarget['polarity'], string])[] = [
  ['both', 'both ways'],
  ['up', 'only up'],
  ['down', 'only down'],
];

/** Every modulator of the session with its settings and what it moves. */
export function ModulatorsDrawer() {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const openId = useStudioState(({ modulatorId }) => modulatorId);
  const modulators = Object.values(document.modulators);
  return (
    <Drawer title="Modulators">
      <div className="drawer-tools">
        {MODULATOR_KINDS.map((kind) => (
          <Button
            key={kind}
            variant="plain"
            onClick={() => {
              const id = newId();
              if (
                studio.editor.perform(newModulatorCommand(document, kind, id), `New ${KIND_NAMES[kind].toLowerCase()}`)
              )
                studio.set({ modulatorId: id });
            }}
          >
            <Plus size={12} aria-hidden="true" /> {KIND_NAMES[kind].toLowerCase()}
          </Button>
        ))}
      </div>
      {modulators.length === 0 && (
        <p className="empty-hint">
          Nothing is moved yet. Make a modulator here, or press the wave beside any ruler of an effect.
        </p>
      )}
      {modulators.map((modulator) => (
        <ModulatorCard key={modulator.id} modulator={modulator} open={modulator.id === openId} />
      ))}
    </Drawer>
  );
}

function ModulatorCard({ modulator, open }: { modulator: Modulator; open: boolean }) {
  const studio = useStudio();
  const { id, name } = modulator;
  const moves = modulator.targets.length;
  return (
    <section className={`modulator ${modulator.on ? '' : 'modulator-off'}`} aria-label={name}>
      <header>
        <Button
          bsPrefix="fold"
          aria-expanded={open}
          aria-label={`${open ? 'Fold' : 'Open'} ${name}`}
          onClick={() => studio.set({ modulatorId: open ? null : id })}
        >
          <FoldCaret isOpen={open} />
        </Button>
        <EditableText
          label={`Name of ${name}`}
          text={name}
          width={120}
          onTyped={(text) =>
            studio.editor.perform({ type: 'modulator.set', id, values: { name: text } }, 'Rename a modulator')
          }
        />
        <small>
          {KIND_NAMES[modulator.kind].toLowerCase()}, moves {moves === 0 ? 'nothing yet' : moves}
        </small>
        <label className="switch">
          <Form.Check.Input
            type="checkbox"
            role="switch"
            aria-label={`${name} on`}
            checked={modulator.on}
            onChange={(event) =>
              studio.editor.perform(
                { type: 'modulator.set', id, values: { on: event.target.checked } },
                `${name} ${event.target.checked ? 'on' : 'off'}`,
              )
            }
          />
        </label>
        <Button
          variant="icon"
          aria-label={`Remove ${name}`}
          title="Remove"
          onClick={() => studio.editor.perform({ type: 'modulator.remove', id }, `Remove ${name}`)}
        >
          <Trash2 size={13} aria-hidden="true" />
        </Button>
      </header>
      {open && <Settings modulator={modulator} />}
    </section>
  );
}

/** Stands for the input of each effect in the list of what a follower listens to. */
const EFFECT_INPUT = '>input';

function Settings({ modulator }: { modulator: Modulator }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const timing = timingOf(document);
  const { id, kind, name } = modulator;
  const preview = (values: Partial<Modulator>, what: string) =>
    studio.editor.preview({ type: 'modulator.set', id, values }, `${name}: ${what}`);
  const ruler = (
    parameter: NumberParameter,
    value: number | string,
    toValues: (value: number) => Partial<Modulator>,
  ) => (
    <Ruler
      parameter={parameter}
      value={value}
      timing={timing}
      signal="key"
      context={name}
      onPreview={(next) => preview(toValues(Number(next)), parameter.name)}
      onSettle={() => studio.editor.settle()}
      onCancel={() => studio.editor.abandon()}
    />
  );
  return (
    <div className="modulator-settings">
      {kind === 'follower' ? (
        <>
          <label className="choice">
            <span>Listens to</span>
            <Form.Select
              aria-label={`${name} listens to`}
              value={modulator.followTap === 'effectInput' ? EFFECT_INPUT : (modulator.followId ?? '')}
              onChange={(event) => {
                const { value } = event.target;
                const values =
                  value === EFFECT_INPUT
                    ? { followId: null, followTap: 'effectInput' as const }
                    : { followId: value || null, followTap: 'beforeFader' as const };
                studio.editor.perform({ type: 'modulator.set', id, values }, `${name}: listens to`);
              }}
            >
              <option value="">nothing</option>
              <option value={EFFECT_INPUT}>what goes into the effect</option>
              {followableBy(document, modulator).map((strip) => (
                <option key={strip.id} value={strip.id}>
                  {strip.name}
                </option>
              ))}
            </Form.Select>
          </label>
          {ruler(SENSITIVITY, modulator.sensitivityDb, (value) => ({ sensitivityDb: value }))}
          {ruler(ATTACK, modulator.attackSeconds * 1000, (value) => ({ attackSeconds: value / 1000 }))}
          {ruler(RELEASE, modulator.releaseSeconds * 1000, (value) => ({ releaseSeconds: value / 1000 }))}
        </>
      ) : kind === 'hand' ? (
        <>
          {ruler(HAND, 100 * modulator.handPart, (value) => ({ handPart: value / 100 }))}
          <HandController modulator={modulator} />
        </>
      ) : (
        <>
          <Ruler
            parameter={MODULATOR_RATE}
            value={modulator.rate}
            timing={timing}
            signal="key"
            context={name}
            onPreview={(next) => preview({ rate: next as number | string }, 'Rate')}
            onSettle={() => studio.editor.settle()}
            onCancel={() => studio.editor.abandon()}
          />
          {kind === 'oscillator' && (
            <label className="choice">
              <span>Shape</span>
              <Form.Select
                aria-label={`${name} shape`}
                value={modulator.shape}
                onChange={(event) =>
                  studio.editor.perform(
                    { type: 'modulator.set', id, values: { shape: event.target.value as Modulator['shape'] } },
                    `${name}: shape`,
                  )
                }
              >
                {SHAPE_CHOICES.map((shape) => (
                  <option key={shape.id} value={shape.id}>
                    {shape.name}
                  </option>
                ))}
              </Form.Select>
            </label>
          )}
          {kind === 'pattern' && <Steps modulator={modulator} />}
          {ruler(PHASE, modulator.phaseDegrees, (value) => ({ phaseDegrees: value }))}
        </>
      )}
      {ruler(SMOOTHING, modulator.smoothingSeconds * 1000, (value) => ({ smoothingSeconds: value / 1000 }))}
      <h3>Moves</h3>
      {modulator.targets.length === 0 && (
        <p className="empty-hint">Nothing yet: press the wave beside a ruler of an effect and choose {name}.</p>
      )}
      {modulator.targets.map((target) => (
        <TargetRow key={`${target.insertId} ${target.parameter}`} modulator={modulator} target={target} />
      ))}
    </div>
  );
}

/** The MIDI controller that moves it, learnt by moving it. */
function HandController({ modulator }: { modulator: Modulator }) {
  const studio = useStudio();
  const learns = useStudioState(({ learning }) => learning === modulator.id);
  const { id, controller, name } = modulator;
  return (
    <p className="hand-controller">
      {controller === null ? 'No controller moves it yet.' : `Moved by controller ${controller}.`}{' '}
      <Button
        variant="line"
        aria-pressed={learns}
        onClick={() => studio.set({ learning: learns ? null : id, keyboard: true })}
      >
        {learns ? 'Move one now' : 'Learn'}
      </Button>
      {controller !== null && (
        <Button
          variant="line"
          onClick={() =>
            studio.editor.perform({ type: 'modulator.set', id, values: { controller: null } }, `${name}: no controller`)
          }
        >
          Forget
        </Button>
      )}
    </p>
  );
}

/** The steps of a pattern as bars that can be drawn over. */
function Steps({ modulator }: { modulator: Modulator }) {
  const studio = useStudio();
  const { id, steps, name } = modulator;
  const set = (index: number, value: number) =>
    studio.editor.preview(
      {
        type: 'modulator.set',
        id,
        values: {
          steps: steps.map((one, n) => (n === index ? Math.round(Math.max(-1, Math.min(1, value)) * 20) / 20 : one)),
        },
      },
      `${name}: steps`,
    );
  const draw = ({ clientX, clientY, currentTarget }: DragPoint) => {
    const box = currentTarget.getBoundingClientRect();
    const index = Math.floor(((clientX - box.left) / box.width) * steps.length);
    if (index >= 0 && index < steps.length) set(index, 1 - (2 * (clientY - box.top)) / box.height);
  };
  const [begin] = usePointerDrag<true>({
    begin: (event) => {
      draw(event);
      return true;
    },
    move: (_, point) => draw(point),
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  const onKeyDown = (event: KeyboardEvent, index: number) => {
    const change = { ArrowUp: 0.05, ArrowDown: -0.05 }[event.key];
    if (change === undefined) return;
    event.preventDefault();
    set(index, steps[index]! + change);
    studio.editor.settle();
  };
  const resize = (count: number) =>
    studio.editor.perform(
      {
        type: 'modulator.set',
        id,
        values: { steps: Array.from({ length: count }, (_, n) => steps[n] ?? steps[n % steps.length]!) },
      },
      `${name}: number of steps`,
    );
  return (
    <div className="pattern">
      <div className="pattern-steps" onPointerDown={begin}>
        {steps.map((step, index) => (
          <span
            key={index}
            role="slider"
            tabIndex={0}
            aria-label={`${name}, step ${index + 1}`}
            aria-valuemin={-1}
            aria-valuemax={1}
            aria-valuenow={step}
            onKeyDown={(event) => onKeyDown(event, index)}
          >
            <i style={{ top: `${50 - Math.max(0, step) * 50}%`, height: `${Math.max(2, Math.abs(step) * 50)}%` }} />
          </span>
        ))}
      </div>
      <label className="choice">
        <span>Steps</span>
        <Form.Select
          aria-label={`${name}: number of steps`}
          value={steps.length}
          onChange={(e) => resize(Number(e.target.value))}
        >
          {Array.from({ length: MODULATOR_STEPS }, (_, n) => n + 1).map((count) => (
            <option key={count}>{count}</option>
          ))}
        </Form.Select>
      </label>
    </div>
  );
}

function TargetRow({ modulator, target }: { modulator: Modulator; target: ModulationTarget }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const insert = document.inserts[target.insertId]!;
  const spec = findEffect(insert.effect)!;
  const strip = stripOfInsert(document, target.insertId)!;
  const parameter = findParameter(spec, target.parameter)!;
  const item = /^\w+\.(\d+)\./.exec(parameter.id)?.[1];
  const what = `${spec.name}${item && spec.lists.length > 0 ? `, ${spec.lists[0]!.itemName.toLowerCase()} ${item}` : ''}: ${parameter.name}`;
  return (
    <div className="modulator-target">
      <div className="modulator-target-head">
        <Button
          variant="plain"
          title="Open it large"
          onClick={() => {
            studio.selection.selectInsert(insert.id);
            studio.set({ view: 'effect' });
          }}
        >
          {what} <small>on {strip.name}</small>
        </Button>
        <Form.Select
          aria-label={`${modulator.name} on ${what}: direction`}
          value={target.polarity}
          onChange={(event) =>
            studio.editor.perform(
              targetCommand(modulator, target, { polarity: event.target.value as ModulationTarget['polarity'] }),
              `${modulator.name}: direction`,
            )
          }
        >
          {POLARITIES.map(([id, word]) => (
            <option key={id} value={id}>
              {word}
            </option>
          ))}
        </Form.Select>
        <Button
          variant="icon"
          aria-label={`Take ${modulator.name} off ${what}`}
          title="Remove this target"
          onClick={() =>
            studio.editor.perform(
              detachCommand(modulator, target.insertId, target.parameter),
              `Take ${modulator.name} off ${parameter.name}`,
            )
          }
        >
          <X size={12} aria-hidden="true" />
        </Button>
      </div>
      <Ruler
        parameter={DEPTH}
        value={target.depth}
        timing={timingOf(document)}
        signal="key"
        context={`${modulator.name} on ${what}:`}
        onPreview={(value) =>
          studio.editor.preview(targetCommand(modulator, target, { depth: Number(value) }), `${modulator.name}: depth`)
        }
        onSettle={() => studio.editor.settle()}
        onCancel={() => studio.editor.abandon()}
      />
    </div>
  );
}
