import type { Parameter } from '../../effects/spec';
import type { PlanCurve } from '../../engine/plan';
import { CurveReader } from '../../engine/curve';
import { cornersOf, curveOf, laneParameter } from '../lanes';
import { stripOf } from '../records/queries';
import type { Lane, Point } from '../records/lanes';
import type { SessionDocument } from '../records/document';
import { gainFactor, type CompileContext } from './context';

// Curves are reused while these functions are the same objects: no arrow functions at the calls.

/** Kernel value of a pan lane, -1 left to 1 right. */
export const panPosition = (percent: number) => percent / 100;
/** Kernel value of a mute lane: 1 is open. */
export const openness = (mute: number) => 1 - mute;

/** The curve of a lane; undefined if it is off or has no points. */
export function laneCurve(
  context: CompileContext,
  lane: Lane,
  toValue?: (value: number) => number,
): PlanCurve | undefined {
  if (!lane.on) return undefined;
  const { document, memo, timing, perBeat } = context;
  const source = lane.mirrorOf === null ? lane : document.lanes[lane.mirrorOf]!;
  const places = [timing, perBeat, toValue, ownerOf(document, source.ownerId, lane !== source)];
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  if (lane !== source) {
    return memo.keep(`curve ${lane.id}`, [lane, source, ownerOf(document, lane.ownerId, true), ...places], () => {
      const corners = cornersOf(document, lane, timing);
      return corners.length === 0 ? undefined : packed(curveOf(parameter, corners, perBeat, toValue));
    });
  }
  // Pieces between unchanged points are reused.
  const pieces = memo.keep(`pieces ${lane.id}`, places, () => new WeakMap<Point, Piece>());
  return memo.keep(`curve ${lane.id}`, [lane.points, pieces], () => {
    if (lane.points.length === 0) return undefined;
    const { points } = lane;
    const parts = points.map((point, index) => {
      const next = points[index + 1];
      const known = pieces.get(point);
      if (known && known.next === next) return known;
      const piece = pieceOf(context, lane, parameter, point, next, toValue);
      pieces.set(point, piece);
      return piece;
    });
    const length = parts.reduce((sum, part) => sum + part.frames.length, 0);
    const frames = new Float64Array(length);
    const values = new Float64Array(length);
    let at = 0;
    for (const part of parts) {
      frames.set(part.frames, at);
      values.set(part.values, at);
      at += part.frames.length;
    }
    return { frames, values };
  });
}

/** A curve as typed arrays, which cross threads fastest. */
function packed({ frames, values }: PlanCurve): PlanCurve {
  return { frames: Float64Array.from(frames), values: Float64Array.from(values) };
}

/** The curve from one point of a lane up to the next, or the last point alone. */
interface Piece {
  readonly next: Point | undefined;
  readonly frames: readonly number[];
  readonly values: readonly number[];
}

function pieceOf(
  { document, timing, perBeat }: CompileContext,
  lane: Lane,
  parameter: Parameter,
  point: Point,
  next: Point | undefined,
  toValue: ((value: number) => number) | undefined,
): Piece {
  const corners = cornersOf(document, { ...lane, points: next ? [point, next] : [point] }, timing);
  const { frames, values } = curveOf(parameter, corners, perBeat, toValue);
  const end = next ? frames.length - 1 : frames.length;
  return { next, frames: frames.slice(0, end), values: values.slice(0, end) };
}

/** The record, or effect id, on which a lane's curve depends: clips carry their lanes along, mirrors start from the set value. */
function ownerOf(document: SessionDocument, ownerId: string, mirrors: boolean): unknown {
  const clip = document.clips[ownerId];
  if (!mirrors) return clip ?? document.inserts[ownerId]?.effect;
  return clip ?? document.inserts[ownerId] ?? document.sends[ownerId] ?? stripOf(document, ownerId);
}

/** The curve of a parameter's lane; undefined if it has none or it is off. */
export function parameterCurve(
  context: CompileContext,
  ownerId: string,
  parameterId: string,
  toValue?: (value: number) => number,
): PlanCurve | undefined {
  const lane = context.lanes.get(ownerId)?.find(({ parameter }) => parameter === parameterId);
  return lane && laneCurve(context, lane, toValue);
}

/** Level times mute of a send, as one curve. */
export function sendCurve(context: CompileContext, sendId: string): PlanCurve | undefined {
  const send = context.document.sends[sendId]!;
  const level = parameterCurve(context, sendId, 'gainDb', gainFactor);
  const opens = parameterCurve(context, sendId, 'mute', openness);
  return context.memo.keep(`send ${sendId}`, [send, level, opens], () => {
    if (!opens) return send.mute ? undefined : level;
    if (!level)
      return {
        frames: opens.frames,
        values: Float64Array.from(opens.values, (value) => value * gainFactor(send.gainDb)),
      };
    return product(level, opens);
  });
}

/** The product of a curve and a curve of steps. */
function product(level: PlanCurve, steps: PlanCurve): PlanCurve {
  const readers = [new CurveReader(level), new CurveReader(steps)];
  const corners = [...new Set([...level.frames, ...steps.frames])].sort((a, b) => a - b);
  const times = (read: (reader: CurveReader) => number) => readers.reduce((all, reader) => all * read(reader), 1);
  return packed({
    frames: corners.flatMap((frame) => [frame, frame]),
    values: corners.flatMap((frame) => [
      times((reader) => reader.valueBefore(frame)),
      times((reader) => reader.valueAt(frame)),
    ]),
  });
}
