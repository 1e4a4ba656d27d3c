import type { Parameter, ParameterValue } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { replaceWithin, thin, type Range } from '@/core/session/laneEdits';
import { laneOf, laneOrigin } from '@/core/session/lanes';
import { throughBehind } from '@/core/session/stageMotion';
import { stripOf, timingOf } from '@/core/session/records/queries';
import type { Point } from '@/core/session/records/lanes';
import type { SessionDocument } from '@/core/session/records/document';

/** Part of the ruler by which a thinned recording may differ from what was played. */
const TOLERANCE = 0.008;

/** A control and the value it is moved to. */
export interface Turn {
  readonly ownerId: string;
  readonly parameter: Parameter;
  readonly value: ParameterValue;
}

/** A control that is being moved while the session plays and writing is armed. */
export interface Take {
  readonly ownerId: string;
  readonly parameter: Parameter;
  readonly points: Point[];
}

/** True if both ends of a ruler are the same value, as for an angle. */
const goesRound = (parameter: Parameter) =>
  parameter.kind === 'number' && parameter.unit === 'degrees' && parameter.max - parameter.min === 360;

/** Adds where a control is now; an angle that has passed behind goes over from one end of its ruler to the other. */
export function addPoint({ parameter, points }: Take, beat: number, value: ParameterValue): void {
  const last = points.at(-1);
  if (last && goesRound(parameter)) {
    points.push(...throughBehind({ beat: last.beat, azimuth: Number(last.value) }, beat, Number(value)));
  }
  points.push({ beat, value, shape: 'straight', bend: 0 });
}

/** The command that sets a control by hand, whatever it belongs to. */
export function setCommand(
  document: SessionDocument,
  ownerId: string,
  parameterId: string,
  value: ParameterValue,
): Command {
  const values = { [parameterId]: value };
  if (document.inserts[ownerId]) return { type: 'insert.set', id: ownerId, values };
  if (document.sends[ownerId]) return { type: 'send.set', id: ownerId, values };
  if (document.clips[ownerId]) return { type: 'clip.set', id: ownerId, values };
  if (stripOf(document, ownerId)) return { type: 'strip.set', id: ownerId, values };
  throw new Error(`There is nothing ${ownerId} to set`);
}

/** Setting by hand takes a lane off until it is given back. */
export function overrideCommand(
  document: SessionDocument,
  ownerId: string,
  parameterId: string,
  value: ParameterValue,
): Command {
  const set = setCommand(document, ownerId, parameterId, value);
  const lane = laneOf(document, ownerId, parameterId);
  if (!lane?.on) return set;
  return { type: 'all', commands: [set, { type: 'lane.set', id: lane.id, values: { on: false } }] };
}

/**
 * The command that writes a take: its points, thinned, replace those of the lane over the same time.
 * @param punch only what was played within these beats is written
 */
export function takeCommand(document: SessionDocument, take: Take, punch: Range | null, newId: string): Command | null {
  const { ownerId, parameter } = take;
  const lane = laneOf(document, ownerId, parameter.id);
  const origin = laneOrigin(document, { ownerId });
  const inside = take.points
    .filter((point) => !punch || (point.beat >= punch.from && point.beat <= punch.to))
    .map((point) => ({ ...point, beat: Math.max(0, point.beat - origin) }));
  if (inside.length === 0) return null;
  const stepped = parameter.kind !== 'number' || inside.some((point) => typeof point.value === 'string');
  const written = stepped
    ? inside
        .filter((point, index) => index === 0 || point.value !== inside[index - 1]!.value)
        .map((point) => ({ ...point, shape: 'hold' as const }))
    : thin(inside, TOLERANCE, parameter, timingOf(document));
  const range = { from: inside[0]!.beat, to: inside.at(-1)!.beat };
  const points = replaceWithin(lane?.points ?? [], written, range);
  if (lane) return { type: 'lane.set', id: lane.id, values: { points, on: true, mirrorOf: null } };
  return {
    type: 'lane.add',
    lane: { id: newId, ownerId, parameter: parameter.id, on: true, points, mirrorOf: null, mirrorAmount: 100 },
  };
}
