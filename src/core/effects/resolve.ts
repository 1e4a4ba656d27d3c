import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { noteValueSeconds, type Timing } from './noteValues';
import { describeRange, inOwnUnit, validateTime, validateValue } from './parameterText';
import { normalSetting, resolveSetting, type ResolvedSettings } from './settings';
import {
  controlsOf,
  findParameter,
  findSetting,
  type EffectSpec,
  type Parameter,
  type ParameterValue,
  type ParameterValues,
} from './spec';

/** One value as the kernel takes it: a number in the parameter's unit, the index of a choice, 0 or 1. */
export function resolveValue(parameter: Parameter, value: ParameterValue, timing: Timing): number {
  if (typeof value === 'boolean') return value ? 1 : 0;
  if (parameter.kind === 'choice') return parameter.choices.findIndex((one) => one.id === value);
  if (typeof value === 'number') return value;
  const seconds = noteValueSeconds(value, timing);
  if (seconds === undefined || parameter.kind !== 'number') {
    throw new Error(`${parameter.id}: ${value} was not validated; it takes ${describeRange(parameter)}`);
  }
  return inOwnUnit(parameter, seconds);
}

/** All values of an effect in kernel order; what is not given has its default. */
export function resolveValues(spec: EffectSpec, values: ParameterValues, timing: Timing): number[] {
  return spec.parameters.map((parameter) => resolveValue(parameter, values[parameter.id] ?? parameter.default, timing));
}

/** All settings of an effect; what is not given has its default. Undefined for effects that have none. */
export function resolveSettings(spec: EffectSpec, values: ParameterValues): ResolvedSettings | undefined {
  if (!spec.settings) return undefined;
  return Object.fromEntries(spec.settings.map((one) => [one.id, resolveSetting(one, values[one.id] ?? one.default)]));
}

/**
 * Checks values by id and returns them.
 * @throws KinetikonError parameter.unknown or parameter.range
 */
export function validateValues(spec: EffectSpec, values: Record<string, unknown>): Record<string, ParameterValue> {
  // A value under a former id overrides one under today's, which is the default where both are given.
  const isFormer = (id: string) => (spec.settings ?? []).some((one) => one.formerId === id);
  const entries = Object.entries(values).sort(([a], [b]) => Number(isFormer(a)) - Number(isFormer(b)));
  return Object.fromEntries(
    entries.map(([id, value]) => {
      const setting = findSetting(spec, id);
      if (setting) return [setting.id, normalSetting(setting, value)];
      const parameter = findParameter(spec, id);
      if (!parameter) {
        throw new KinetikonError('parameter.unknown', `${spec.id} has no parameter ${quoted(id)}.`, {
          kept: 'Nothing was changed.',
          next: `It has: ${controlsOf(spec)
            .map((one) => one.id)
            .join(', ')}.`,
        });
      }
      return [id, validateValue(parameter, value)];
    }),
  );
}

/**
 * Checks values that are fine each by itself against the tempo and against one another.
 * @throws KinetikonError parameter.range when a note value or a ratio comes to a time outside its range
 */
export function validateTimes(spec: EffectSpec, values: ParameterValues, timing: Timing): void {
  for (const [id, value] of Object.entries(values)) {
    if (typeof value !== 'string') continue;
    const parameter = findParameter(spec, id);
    if (parameter) validateTime(parameter, value, timing);
  }
  const refused = spec.refuse?.((id) => figureOf(spec, values, timing, id));
  if (refused) throw new KinetikonError('parameter.range', refused, { kept: 'Nothing was changed.' });
}

/** A value in its parameter's own unit at a tempo, with its default where none is set. */
export function figureOf(spec: EffectSpec, values: ParameterValues, timing: Timing, id: string): number {
  const parameter = findParameter(spec, id)!;
  return resolveValue(parameter, values[id] ?? parameter.default, timing);
}

/** A change of values with what goes along with it. */
export function completed(
  spec: EffectSpec,
  before: ParameterValues,
  change: ParameterValues,
  timing: Timing,
): ParameterValues {
  const after = { ...before, ...change };
  return { ...change, ...spec.completes?.(before, change, (id) => figureOf(spec, after, timing, id)) };
}
