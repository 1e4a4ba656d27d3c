import { findEffect } from '../effects/registry';
import { resolveValue } from '../effects/resolve';
import type { Timing } from '../effects/noteValues';
import { exactValueAt, positionOf } from '../effects/scale';
import { findParameter, type NumberParameter, type Parameter, type ParameterValue } from '../effects/spec';
import { exp, log } from '../math/elementary';
import { stripOf, stripOfInsert } from './records/queries';
import type { Lane, Point } from './records/lanes';
import type { SessionDocument } from './records/document';
import {
  CLIP_GAIN_PARAMETER,
  GAIN_PARAMETER,
  MUTE_PARAMETER,
  PAN_PARAMETER,
  SEND_GAIN_PARAMETER,
} from './stripParameters';

const STRIP_PARAMETERS = [GAIN_PARAMETER, PAN_PARAMETER, MUTE_PARAMETER];
const SEND_PARAMETERS = [SEND_GAIN_PARAMETER, MUTE_PARAMETER];
const CLIP_PARAMETERS = [CLIP_GAIN_PARAMETER];

/** Straight pieces into which a curved one, or a straight one on a bent scale, is laid out. */
const PIECES = 24;
const STEEPEST = 3;

/** Everything of an effect, a strip, a send or a clip that a lane can move. */
export function parametersOf(document: SessionDocument, ownerId: string): readonly Parameter[] {
  const insert = document.inserts[ownerId];
  if (insert) return findEffect(insert.effect)?.parameters ?? [];
  if (stripOf(document, ownerId)) return STRIP_PARAMETERS;
  if (document.sends[ownerId]) return SEND_PARAMETERS;
  return document.clips[ownerId] ? CLIP_PARAMETERS : [];
}

export function laneParameter(document: SessionDocument, ownerId: string, parameterId: string): Parameter | undefined {
  const insert = document.inserts[ownerId];
  const spec = insert && findEffect(insert.effect);
  if (spec) return findParameter(spec, parameterId);
  return parametersOf(document, ownerId).find((parameter) => parameter.id === parameterId);
}

/** The lane of a parameter, if it has one. */
export function laneOf(document: SessionDocument, ownerId: string, parameterId: string): Lane | undefined {
  return Object.values(document.lanes).find((lane) => lane.ownerId === ownerId && lane.parameter === parameterId);
}

/** The strip on whose path something that can be automated lies. */
export function stripIdOfOwner(document: SessionDocument, ownerId: string): string | undefined {
  return (
    stripOf(document, ownerId)?.id ??
    stripOfInsert(document, ownerId)?.id ??
    document.sends[ownerId]?.fromId ??
    document.clips[ownerId]?.trackId
  );
}

/** Sort key of a lane by its owner: the strip itself, then inserts, sends and clips, each in their order. */
function ownerRank(document: SessionDocument, ownerId: string): readonly [kind: number, place: number] {
  const strip = stripOfInsert(document, ownerId);
  if (strip) return [1, strip.insertIds.indexOf(ownerId)];
  const send = document.sends[ownerId];
  if (send) return [2, document.session.returnIds.indexOf(send.toId)];
  const clip = document.clips[ownerId];
  return clip ? [3, clip.startBeat] : [0, 0];
}

/** Lanes of one strip in the order of what they move, whatever order they were made or stored in. */
export function lanesInOrder(document: SessionDocument, lanes: readonly Lane[]): Lane[] {
  const ranked = lanes.map((lane) => ({
    lane,
    rank: [
      ...ownerRank(document, lane.ownerId),
      parametersOf(document, lane.ownerId).findIndex(({ id }) => id === lane.parameter),
    ],
  }));
  ranked.sort((a, b) => {
    const differs = a.rank.findIndex((figure, n) => figure !== b.rank[n]);
    return differs < 0 ? (a.lane.id < b.lane.id ? -1 : 1) : a.rank[differs]! - b.rank[differs]!;
  });
  return ranked.map(({ lane }) => lane);
}

/** Name of a lane's owner. */
function ownerName(document: SessionDocument, ownerId: string): string {
  const insert = document.inserts[ownerId];
  if (insert) return findEffect(insert.effect)?.name ?? insert.effect;
  const send = document.sends[ownerId];
  if (send) return `to ${document.returns[send.toId]?.name ?? ''}`;
  return document.clips[ownerId]?.name ?? stripOf(document, ownerId)?.name ?? '';
}

/** Name of a lane within its strip: `Pan`, or `Delay: Feedback`. */
export function laneName(document: SessionDocument, lane: Pick<Lane, 'ownerId' | 'parameter'>): string {
  const { name } = laneParameter(document, lane.ownerId, lane.parameter)!;
  return stripOf(document, lane.ownerId) ? name : `${ownerName(document, lane.ownerId)}: ${name}`;
}

/** Set value of a parameter, without its lane. */
export function setValueOf(document: SessionDocument, ownerId: string, parameter: Parameter): ParameterValue {
  const owner: Readonly<Record<string, unknown>> =
    document.inserts[ownerId]?.values ??
    stripOf(document, ownerId) ??
    document.sends[ownerId] ??
    document.clips[ownerId] ??
    {};
  return (owner[parameter.id] ?? parameter.default) as ParameterValue;
}

/** Height of a value in its lane, 0 to 1: the place on the ruler; choices and switches stand on steps. */
export function heightOf(parameter: Parameter, value: ParameterValue, timing: Timing): number {
  const figure = resolveValue(parameter, value, timing);
  if (parameter.kind === 'number') return positionOf(parameter, figure);
  return parameter.kind === 'toggle' ? figure : figure / Math.max(1, parameter.choices.length - 1);
}

/** The value at a height, exact; choices and switches take the nearest. */
export function valueAtHeight(parameter: Parameter, height: number): ParameterValue {
  const inside = Math.min(1, Math.max(0, height));
  if (parameter.kind === 'number') return exactValueAt(parameter, inside);
  if (parameter.kind === 'toggle') return inside >= 0.5;
  return parameter.choices[Math.round(inside * (parameter.choices.length - 1))]!.id;
}

/** Progress within a curved piece: a power whose exponent is 2 to the bend times three. */
export function bent(part: number, bend: number): number {
  if (part <= 0 || part >= 1 || bend === 0) return Math.min(1, Math.max(0, part));
  return bend > 0
    ? 1 - exp(log(1 - part) * exp(bend * STEEPEST * Math.LN2))
    : exp(log(part) * exp(-bend * STEEPEST * Math.LN2));
}

/** Beat from which the points of a lane count: a lane of a clip moves with the sound of the clip. */
export function laneOrigin(document: SessionDocument, lane: Pick<Lane, 'ownerId'>): number {
  const clip = document.clips[lane.ownerId];
  return clip ? clip.startBeat - (clip.offsetSeconds * document.session.tempoBpm) / 60 : 0;
}

export interface Corner {
  readonly beat: number;
  readonly height: number;
}

/** A lane laid out as straight pieces, in beats of the session and heights; empty without points. */
export function cornersOf(document: SessionDocument, lane: Lane, timing: Timing): Corner[] {
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  const source = lane.mirrorOf === null ? lane : document.lanes[lane.mirrorOf]!;
  const origin = laneOrigin(document, source);
  const corners = layOut(laneParameter(document, source.ownerId, source.parameter)!, source.points, timing).map(
    ({ beat, height }) => ({ beat: beat + origin, height }),
  );
  if (lane.mirrorOf === null) return corners;
  if (corners.length === 0) return [];
  const heights = corners.map((corner) => corner.height);
  const middle = (Math.min(...heights) + Math.max(...heights)) / 2;
  const own = heightOf(parameter, setValueOf(document, lane.ownerId, parameter), timing);
  const amount = lane.mirrorAmount / 100;
  return corners.map(({ beat, height }) => ({
    beat,
    height: Math.min(1, Math.max(0, own - amount * (height - middle))),
  }));
}

function layOut(parameter: Parameter, points: readonly Point[], timing: Timing): Corner[] {
  const corners: Corner[] = [];
  const stepped = parameter.kind !== 'number';
  points.forEach((point, index) => {
    const height = heightOf(parameter, point.value, timing);
    corners.push({ beat: point.beat, height });
    const next = points[index + 1];
    if (!next || next.beat === point.beat) return;
    const target = heightOf(parameter, next.value, timing);
    if (stepped || point.shape === 'hold') {
      corners.push({ beat: next.beat, height });
    } else if (point.shape === 'curved' && point.bend !== 0) {
      for (let piece = 1; piece < PIECES; piece++) {
        const part = piece / PIECES;
        corners.push({
          beat: point.beat + (next.beat - point.beat) * part,
          height: height + (target - height) * bent(part, point.bend),
        });
      }
    }
  });
  return corners;
}

/** The height of a lane at a beat, or null without points. */
export function heightAt(corners: readonly Corner[], beat: number): number | null {
  if (corners.length === 0) return null;
  let at = -1;
  while (at + 1 < corners.length && corners[at + 1]!.beat <= beat) at++;
  if (at < 0) return corners[0]!.height;
  const from = corners[at]!;
  const to = corners[at + 1];
  if (!to) return from.height;
  return from.height + ((beat - from.beat) / (to.beat - from.beat)) * (to.height - from.height);
}

/** The corners of a lane as kernel values over frames; on bent scales straight pieces of the ruler get more corners. */
export function curveOf(
  parameter: Parameter,
  corners: readonly Corner[],
  framesPerBeat: number,
  toValue: (value: number) => number = (value) => value,
): { frames: number[]; values: number[] } {
  const frames: number[] = [];
  const values: number[] = [];
  const valueOf = (height: number) => {
    if (parameter.kind === 'number') return toValue(exactValueAt(parameter as NumberParameter, height));
    if (parameter.kind === 'toggle') return toValue(height >= 0.5 ? 1 : 0);
    return toValue(Math.round(height * (parameter.choices.length - 1)));
  };
  const even = Math.abs(0.5 * (valueOf(0) + valueOf(1)) - valueOf(0.5)) < 1e-12;
  const straight = parameter.kind !== 'number' || (parameter.scale === 'linear' && even);
  corners.forEach(({ beat, height }, index) => {
    frames.push(Math.round(beat * framesPerBeat));
    values.push(valueOf(height));
    const next = corners[index + 1];
    if (straight || !next || next.height === height || next.beat === beat) return;
    for (let piece = 1; piece < PIECES; piece++) {
      const part = piece / PIECES;
      const frame = Math.round((beat + (next.beat - beat) * part) * framesPerBeat);
      if (frame <= frames.at(-1)!) continue;
      frames.push(frame);
      values.push(valueOf(height + (next.height - height) * part));
    }
  });
  return { frames, values };
}
