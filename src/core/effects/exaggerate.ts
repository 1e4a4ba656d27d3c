import type { Timing } from './noteValues';
import { resolveValue } from './resolve';
import { exactValueAt, positionOf, valueAt } from './scale';
import type { EffectSpec, NumberParameter, ParameterValue, ParameterValues } from './spec';

/** By how much what is there is turned up, and the least that counts as plain, as parts of the way to the end. */
const MORE = 2.5;
const LEAST = 0.35;

/**
 * The values with everything turned up that says how much of the effect there is: to hear plainly what it does before
 * pulling back. What points downward goes further down; what is at nothing goes a good way up.
 */
export function exaggerated(spec: EffectSpec, values: ParameterValues, timing: Timing): Record<string, ParameterValue> {
  const more: Record<string, ParameterValue> = {};
  for (const parameter of spec.parameters) {
    if (parameter.kind !== 'number' || !(spec.exaggerates ?? []).some((pattern) => fits(pattern, parameter.id)))
      continue;
    more[parameter.id] = turnedUp(
      parameter,
      resolveValue(parameter, values[parameter.id] ?? parameter.default, timing),
    );
  }
  return more;
}

/** A pattern names one parameter, or with `*` the same of every item of a list. */
function fits(pattern: string, id: string): boolean {
  return pattern === id || (pattern.includes('*') && id.replace(/\.\d+\./, '.*.') === pattern);
}

function turnedUp(parameter: NumberParameter, value: number): number {
  const neutral = parameter.min < 0 && parameter.max > 0 ? 0 : parameter.min;
  const rest = positionOf(parameter, neutral);
  const away = positionOf(parameter, value) - rest;
  const end = away < 0 ? -rest : 1 - rest;
  const part = Math.min(1, Math.max(LEAST, (away / (end || 1)) * MORE));
  return valueAt(parameter, positionOf(parameter, exactValueAt(parameter, rest + part * end)));
}
