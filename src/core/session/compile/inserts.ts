import type { Timing } from '../../effects/noteValues';
import { effectById } from '../../effects/registry';
import { resolveSettings, resolveValue, resolveValues } from '../../effects/resolve';
import { resourceFor } from '../../effects/resource';
import type { Parameter } from '../../effects/spec';
import type { PlanInsert, PlanModulation, PlanNote, PlanSource } from '../../engine/plan';
import { planNotes } from '../../engine/planNotes';
import { seedOf } from '../../math/hash';
import { Memo } from '../memo';
import { compareIds } from '../compareIds';
import { timingOf } from '../records/queries';
import { MODULATOR_RATE, type Modulator } from '../records/modulators';
import type { Insert } from '../records/inserts';
import type { Lane } from '../records/lanes';
import type { SessionDocument } from '../records/document';
import { optional, type CompileContext, newContext } from './context';
import { laneCurve } from './curves';

/** Compiles the inserts of a strip. */
export function compileInserts(document: SessionDocument, insertIds: readonly string[], off = false): PlanInsert[] {
  const context = newContext(document, new Memo());
  return insertIds.map((id) => compileInsert(context, id, off));
}

export function compileInsert(context: CompileContext, id: string, off: boolean): PlanInsert {
  const { document } = context;
  return compileMoved(context, document.inserts[id]!, off, context.lanes.get(id) ?? [], () =>
    modulationsOf(document, id),
  );
}

/** Compiles an insert with its automation and modulations. */
export function compileMoved(
  context: CompileContext,
  insert: Insert,
  off: boolean,
  lanes: readonly Lane[],
  modulate: () => PlanModulation[],
): PlanInsert {
  const { document, memo, timing } = context;
  const moved = lanes.map((lane) => laneCurve(context, lane));
  const notes = compileNotes(context, insert);
  const { modulators } = document;
  return memo.keep(
    `insert ${insert.id}`,
    [insert, off, timing, document.session.sampleRateHz, modulators, notes, ...lanes, ...moved],
    () => {
      const spec = effectById(insert.effect);
      const curves = lanes
        .flatMap((lane, n) => {
          const index = spec.parameters.findIndex((parameter) => parameter.id === lane.parameter);
          return moved[n] ? [{ index, curve: moved[n] }] : [];
        })
        .sort((a, b) => a.index - b.index);
      const modulations = modulate();
      return {
        ...plainInsert(document, insert),
        bypass: off || insert.bypass,
        ...(Object.keys(insert.inputs).length > 0 ? { inputs: compileInputs(insert) } : {}),
        ...(notes.length > 0 ? { notes } : {}),
        ...(curves.length > 0 ? { curves } : {}),
        ...(modulations.length > 0 ? { modulations } : {}),
      };
    },
  );
}

const NO_NOTES: readonly PlanNote[] = [];

/** Side chains of an effect by slot, in the order of the slots. */
function compileInputs({ inputs }: Insert): PlanInsert['inputs'] {
  const slots = Object.keys(inputs).sort();
  return Object.fromEntries(slots.map((slot) => [slot, { stripId: inputs[slot]!.stripId, tap: inputs[slot]!.tap }]));
}

/** The notes that an effect plays. */
function compileNotes({ document, memo, notes, strips, perBeat }: CompileContext, insert: Insert): readonly PlanNote[] {
  if (!effectById(insert.effect).playsNotes) return NO_NOTES;
  const ownerId = insert.notesFrom ?? strips.get(insert.id);
  const own = notes.get(ownerId ?? '') ?? [];
  if (own.length === 0) return NO_NOTES;
  return memo.keep(`notes ${insert.id}`, [document.session.sampleRateHz, perBeat, ...own], () =>
    planNotes(own, perBeat),
  );
}

/** Compiles an insert without side chains, automation or modulations. */
export function plainInsert(document: SessionDocument, insert: Insert): PlanInsert {
  return resolvedInsert(insert, document.session.sampleRateHz, timingOf(document));
}

/** An insert with its values, settings and resource as they are at a rate and a tempo. */
export function resolvedInsert(
  { id, effect, bypass, values: written }: Pick<Insert, 'id' | 'effect' | 'bypass' | 'values'>,
  sampleRateHz: number,
  timing: Timing,
): PlanInsert {
  const spec = effectById(effect);
  const values = resolveValues(spec, written, timing);
  const settings = resolveSettings(spec, written);
  const resource = resourceFor(spec, sampleRateHz, values, settings);
  return { id, effect, bypass, values, ...optional('settings', settings), ...optional('resource', resource) };
}

/** Modulations of an effect's parameters, in the order of the modulators' ids. */
export function modulationsOf(document: SessionDocument, insertId: string): PlanModulation[] {
  const spec = effectById(document.inserts[insertId]!.effect);
  return Object.values(document.modulators)
    .sort(compareIds)
    .flatMap((modulator) => {
      const source = modulator.on ? sourceOf(document, modulator) : null;
      if (!source) return [];
      return modulator.targets.flatMap(({ insertId: target, parameter, depth, polarity }): PlanModulation[] => {
        const index = spec.parameters.findIndex(({ id }) => id === parameter);
        const moved = spec.parameters[index];
        if (target !== insertId || !moved || depth === 0) return [];
        return [
          {
            id: `${modulator.id}>${parameter}`,
            index,
            ...rulerOf(moved),
            source,
            depth: depth / 100,
            polarity,
            smoothingSeconds: modulator.smoothingSeconds,
          },
        ];
      });
    });
}

/** The ruler along which modulations move a parameter; states of switches and choices are evenly spaced on it. */
function rulerOf(parameter: Parameter): Pick<PlanModulation, 'ruler' | 'stepped'> {
  if (parameter.kind === 'number') {
    const { min, max, scale } = parameter;
    return { ruler: { min, max, scale } };
  }
  const last = parameter.kind === 'toggle' ? 1 : parameter.choices.length - 1;
  return { ruler: { min: 0, max: last, scale: 'linear' }, stepped: true };
}

function sourceOf(document: SessionDocument, modulator: Modulator): PlanSource | null {
  const { kind, shape, steps, followId, followTap, attackSeconds, releaseSeconds, sensitivityDb } = modulator;
  const rateHz = resolveValue(MODULATOR_RATE, modulator.rate, timingOf(document));
  const phase = modulator.phaseDegrees / 360;
  const seed = seedOf(modulator.id);
  switch (kind) {
    case 'oscillator':
      return { kind, shape, rateHz, phase, seed };
    case 'pattern':
      return { kind, steps, rateHz, phase };
    case 'walk':
      return { kind, rateHz, phase, seed };
    case 'hand':
      return { kind, id: modulator.id, part: modulator.handPart };
    case 'follower': {
      if (followTap !== 'effectInput' && followId === null) return null;
      const key = followTap === 'effectInput' ? null : { stripId: followId!, tap: followTap };
      return { kind, key, attackSeconds, releaseSeconds, gainDb: sensitivityDb };
    }
  }
}
