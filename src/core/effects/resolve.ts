import { KinetikonError } from '../errors';
import { noteValueSeconds, type Timing } from './noteValues';
import { describeRange, inOwnUnit, validateValue } from './parameterText';
import { findParameter, type EffectSpec, type Parameter, type ParameterValue, type ParameterValues } from './spec';

/** One value as the kernel takes it: a number in the parameter's unit, the index of a choice, 0 or 1. */
export function resolveValue(parameter: Parameter, value: ParameterValue, timing: Timing): number {
  if (typeof value === 'boolean') return value ? 1 : 0;
  if (parameter.kind === 'choice') return parameter.choices.findIndex((one) => one.id === value);
  if (typeof value === 'number') return value;
  const seconds = noteValueSeconds(value, timing);
  if (seconds === undefined || parameter.kind !== 'number') {
    throw new Error(`${parameter.id}: ${value} was not validated; it takes ${describeRange(parameter)}`);
  }
  return Math.min(parameter.max, Math.max(parameter.min, inOwnUnit(parameter, seconds)));
}

/** All values of an effect in kernel order; what is not given has its default. */
export function resolveValues(spec: EffectSpec, values: ParameterValues, timing: Timing): number[] {
  return spec.parameters.map((parameter) => resolveValue(parameter, values[parameter.id] ?? parameter.default, timing));
}

/**
 * Checks values by id and returns them.
 * @throws KinetikonError parameter.unknown or parameter.range
 */
export function validateValues(spec: EffectSpec, values: Record<string, unknown>): Record<string, ParameterValue> {
  return Object.fromEntries(
    Object.entries(values).map(([id, value]) => {
      const parameter = findParameter(spec, id);
      if (!parameter) {
        throw new KinetikonError('parameter.unknown', `${spec.id} has no parameter ${id}.`, {
          kept: 'Nothing was changed.',
          next: `It has: ${spec.parameters.map((one) => one.id).join(', ')}.`,
        });
      }
      return [id, validateValue(parameter, value)];
    }),
  );
}
