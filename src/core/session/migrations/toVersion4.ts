import { noteValueSeconds, type Timing } from '../../effects/noteValues';
import { inOwnUnit } from '../../effects/parameterText';
import { findEffect } from '../../effects/registry';
import { findParameter, type Parameter, type ParameterValue } from '../../effects/spec';
import { laneParameter } from '../lanes';
import { timingOf } from '../records/queries';
import type { Insert } from '../records/inserts';
import type { SessionDocument } from '../records/document';

/** Replaces a note value out of range by the end of the range, as version 3 played it. */
function asItSounded(parameter: Parameter | undefined, value: ParameterValue, timing: Timing): ParameterValue {
  if (parameter?.kind !== 'number' || typeof value !== 'string') return value;
  const seconds = noteValueSeconds(value, timing);
  if (seconds === undefined) return value;
  const figure = inOwnUnit(parameter, seconds);
  return figure < parameter.min ? parameter.min : figure > parameter.max ? parameter.max : value;
}

function settled(insert: Insert, timing: Timing): Insert {
  const spec = findEffect(insert.effect);
  if (!spec) return insert;
  const values = Object.fromEntries(
    Object.entries(insert.values).map(([id, value]) => [id, asItSounded(findParameter(spec, id), value, timing)]),
  );
  return { ...insert, values: insert.effect === 'delay' ? withRatiosInRange(values, timing) : values };
}

/** A right time that a ratio put beyond 12 s or under 0.1 ms sounded there: it becomes a time of its own. */
function withRatiosInRange(values: Record<string, ParameterValue>, timing: Timing): Record<string, ParameterValue> {
  const out = { ...values };
  for (let line = 1; line <= 8; line++) {
    const prefix = `lines.${line}.`;
    const left = out[`${prefix}timeLeft`];
    if (left === undefined || out[`${prefix}linked`] === false) continue;
    const ms = typeof left === 'string' ? noteValueSeconds(left, timing)! * 1000 : Number(left);
    const right = (ms * Number(out[`${prefix}rightRatio`] ?? 100)) / 100;
    if (right >= 0.1 && right <= 12000) continue;
    out[`${prefix}linked`] = false;
    out[`${prefix}timeRight`] = right < 0.1 ? 0.1 : 12000;
  }
  return out;
}

/**
 * Version 4 has no note value that comes to a time outside its parameter's range at the session's tempo: what sounded at
 * the end of the range is written as that. Nothing of version 3 sounds otherwise.
 */
export function toVersion4(old: Record<string, unknown>): Record<string, unknown> {
  const document = old as unknown as SessionDocument;
  const timing = timingOf(document);
  const lanes = Object.fromEntries(
    Object.entries(document.lanes).map(([id, lane]) => {
      const parameter = laneParameter(document, lane.ownerId, lane.parameter);
      const points = lane.points.map((point) => ({ ...point, value: asItSounded(parameter, point.value, timing) }));
      return [id, { ...lane, points }];
    }),
  );
  const inserts = Object.fromEntries(
    Object.entries(document.inserts).map(([id, insert]) => [id, settled(insert, timing)]),
  );
  return { ...old, version: 4, inserts, lanes };
}
