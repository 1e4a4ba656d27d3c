import * as yup from 'yup';
import { KinetikonError } from '../../errors';
import { findEffect } from '../../effects/registry';
import { validateValue } from '../../effects/parameterText';
import { validateValues } from '../../effects/resolve';
import { LONGEST_BEATS } from '../fields';
import { SWELL_PARAMETERS } from '../../swells/swellParameters';
import { POINT_SHAPES, MOST_POINTS, type Point, type Lane } from './lanes';
import { MODULATOR_RATE, type Modulator } from './modulators';
import { inputSchema, type Insert, type Comparison } from './inserts';
import type { Print } from './prints';
import { SCHEMAS } from './document';
import { quoted } from '../../text';

const refusal = (message: string, cause?: unknown) =>
  new KinetikonError('session.invalid', message, { kept: 'Nothing was changed.', cause });

/**
 * Checks one record against its schema and, for an insert, its values against its effect.
 * @throws KinetikonError session.invalid, parameter.range, parameter.unknown, effect.unknown
 */
export function validateRecord(kind: keyof typeof SCHEMAS, value: unknown): void {
  try {
    SCHEMAS[kind].validateSync(kind === 'lanes' ? withoutPlainPoints(value) : value, { strict: true });
  } catch (error) {
    if (error instanceof yup.ValidationError) throw refusal(`In ${kind}: ${error.errors[0]}.`, error);
    throw error;
  }
  if (kind === 'inserts') validateInsert(value as Insert);
  if (kind === 'prints') validatePrint(value as Print);
  if (kind === 'modulators') validateValue(MODULATOR_RATE, (value as Modulator).rate);
  if (kind === 'comparisons') {
    for (const slot of Object.values((value as Comparison).slots)) slot?.inserts.forEach(validateInsert);
  }
}

/** True for what `pointSchema` takes, in a hundredth of its time. */
function isPlainPoint(point: unknown): boolean {
  if (typeof point !== 'object' || point === null || Object.keys(point).length !== 4) return false;
  const { beat, value, shape, bend } = point as Record<keyof Point, unknown>;
  return (
    typeof beat === 'number' &&
    beat >= 0 &&
    beat <= LONGEST_BEATS &&
    (typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean') &&
    (POINT_SHAPES as readonly unknown[]).includes(shape) &&
    typeof bend === 'number' &&
    bend >= -1 &&
    bend <= 1
  );
}

/** The lane without its points when all of them are as they should be: hundreds of thousands are checked at a time. */
function withoutPlainPoints(lane: unknown): unknown {
  const points: unknown = (lane as Partial<Lane> | null)?.points;
  const plain = Array.isArray(points) && points.length <= MOST_POINTS && points.every(isPlainPoint);
  return plain ? { ...(lane as Lane), points: [] } : lane;
}

function validateInsert(insert: Insert): void {
  const spec = findEffect(insert.effect);
  if (!spec)
    throw new KinetikonError('effect.unknown', `There is no effect "${quoted(insert.effect)}".`, {
      kept: 'Nothing was changed.',
    });
  validateValues(spec, insert.values);
  for (const [slot, input] of Object.entries(insert.inputs)) {
    if (!spec.inputs?.some((one) => one.id === slot)) throw refusal(`${spec.name} has no input ${quoted(slot)}.`);
    try {
      inputSchema.validateSync(input, { strict: true });
    } catch (error) {
      throw refusal(`The input ${slot} of ${spec.name} is damaged.`, error);
    }
  }
}

function validatePrint({ recipe }: Print): void {
  if (recipe.kind !== 'swell') return;
  for (const [key, value] of Object.entries(recipe.values)) {
    const parameter = SWELL_PARAMETERS.find((one) => one.id === key);
    if (!parameter) throw refusal(`A swell has no ${quoted(key)}.`);
    validateValue(parameter, value);
  }
  if (recipe.space.kind === 'own') recipe.space.inserts.forEach(validateInsert);
}
