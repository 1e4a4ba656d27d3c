import type { Timing } from '../effects/noteValues';
import type { Parameter, ParameterValue } from '../effects/spec';
import { TWO_PI } from '../math/circle';
import { SeededRandom } from '../math/random';
import { sin } from '../math/elementary';
import { heightOf, valueAtHeight } from './lanes';
import type { Point } from './records/lanes';

/** A stretch of a lane, in beats from its origin. */
export interface Range {
  readonly from: number;
  readonly to: number;
}

export const LANE_SHAPES = ['sine', 'triangle', 'rampUp', 'rampDown', 'square', 'randomSteps'] as const;
export type LaneShape = (typeof LANE_SHAPES)[number];

const point = (beat: number, value: ParameterValue, shape: Point['shape'] = 'straight'): Point => ({
  beat,
  value,
  shape,
  bend: 0,
});

const inOrder = (points: readonly Point[]): Point[] => [...points].sort((a, b) => a.beat - b.beat);

/** Puts points into a lane; those that stood within the range they cover, or that is given, are gone. */
export function replaceWithin(points: readonly Point[], inserted: readonly Point[], range?: Range): Point[] {
  const from = range?.from ?? inserted[0]?.beat ?? 0;
  const to = range?.to ?? inserted.at(-1)?.beat ?? 0;
  const before = points.filter((one) => one.beat < from);
  const after = points.filter((one) => one.beat > to);
  return [...before, ...inOrder(inserted), ...after];
}

/** Adds one point; one that stood on the same beat gives way. */
export function withPoint(points: readonly Point[], added: Point): Point[] {
  return inOrder([...points.filter((one) => one.beat !== added.beat), added]);
}

/** Moves chosen points by beats and by a part of the ruler; none goes before the origin. */
export function movePoints(
  points: readonly Point[],
  chosen: ReadonlySet<number>,
  beats: number,
  height: number,
  parameter: Parameter,
  timing: Timing,
): { points: Point[]; chosen: Set<number> } {
  const earliest = Math.min(...[...chosen].map((index) => points[index]!.beat));
  const by = Math.max(beats, -earliest);
  const moved = points.map((one, index) => {
    if (!chosen.has(index)) return { one, index };
    const value = height === 0 ? one.value : rounded(parameter, heightOf(parameter, one.value, timing) + height);
    return { one: { ...one, beat: one.beat + by, value }, index };
  });
  moved.sort((a, b) => a.one.beat - b.one.beat || a.index - b.index);
  return {
    points: moved.map(({ one }) => one),
    chosen: new Set(moved.flatMap(({ index }, place) => (chosen.has(index) ? [place] : []))),
  };
}

/** A value at a height with as many figures as the eye can set. */
function rounded(parameter: Parameter, height: number): ParameterValue {
  const value = valueAtHeight(parameter, height);
  return typeof value === 'number' ? Number(value.toPrecision(5)) : value;
}

const mapHeights = (
  points: readonly Point[],
  chosen: ReadonlySet<number>,
  parameter: Parameter,
  timing: Timing,
  change: (height: number) => number,
): Point[] =>
  points.map((one, index) =>
    chosen.has(index) ? { ...one, value: rounded(parameter, change(heightOf(parameter, one.value, timing))) } : one,
  );

function span(
  points: readonly Point[],
  chosen: ReadonlySet<number>,
  parameter: Parameter,
  timing: Timing,
): [number, number] {
  const heights = [...chosen].map((index) => heightOf(parameter, points[index]!.value, timing));
  return [Math.min(...heights), Math.max(...heights)];
}

/** Turns chosen points over: about the middle of the range they cover. */
export function invert(
  points: readonly Point[],
  chosen: ReadonlySet<number>,
  parameter: Parameter,
  timing: Timing,
): Point[] {
  const [low, high] = span(points, chosen, parameter, timing);
  return mapHeights(points, chosen, parameter, timing, (height) => low + high - height);
}

/** Makes the movement of chosen points larger or smaller about its middle. */
export function scale(
  points: readonly Point[],
  chosen: ReadonlySet<number>,
  percent: number,
  parameter: Parameter,
  timing: Timing,
): Point[] {
  const [low, high] = span(points, chosen, parameter, timing);
  const middle = (low + high) / 2;
  return mapHeights(points, chosen, parameter, timing, (height) => middle + ((height - middle) * percent) / 100);
}

/** Makes chosen points last longer or shorter from the first of them on; what they then cover gives way. */
export function stretch(points: readonly Point[], chosen: ReadonlySet<number>, percent: number): Point[] {
  const picked = points.filter((_, index) => chosen.has(index));
  const others = points.filter((_, index) => !chosen.has(index));
  const start = picked[0]!.beat;
  return replaceWithin(
    others,
    picked.map((one) => ({ ...one, beat: start + ((one.beat - start) * percent) / 100 })),
  );
}

/** Points as they are kept for pasting: from the first of them on. */
export function copied(points: readonly Point[], chosen: ReadonlySet<number>): Point[] {
  const picked = points.filter((_, index) => chosen.has(index));
  const start = picked[0]?.beat ?? 0;
  return picked.map((one) => ({ ...one, beat: one.beat - start }));
}

export function pasteAt(points: readonly Point[], clipboard: readonly Point[], beat: number): Point[] {
  return replaceWithin(
    points,
    clipboard.map((one) => ({ ...one, beat: one.beat + beat })),
  );
}

/** Says chosen points again and again, `period` beats apart, up to the end of a range. */
export function repeatTo(points: readonly Point[], chosen: ReadonlySet<number>, period: number, end: number): Point[] {
  const picked = points.filter((_, index) => chosen.has(index));
  const start = picked[0]!.beat;
  const copies: Point[] = [];
  for (let turn = 1; start + turn * period < end; turn++) {
    for (const one of picked) {
      const beat = one.beat + turn * period;
      if (beat <= end) copies.push({ ...one, beat });
    }
  }
  const last = picked.at(-1)!.beat;
  if (copies.length === 0) return [...points];
  const kept = points.filter((one) => one.beat <= last || one.beat > end);
  return inOrder([...kept, ...copies.filter((one) => one.beat > last || one.beat === start + period)]);
}

/**
 * A shape over a range, one cycle every `period` beats, between two heights. Random steps are the same for the same
 * seed.
 */
export function shapePoints(
  shape: LaneShape,
  range: Range,
  period: number,
  low: number,
  high: number,
  parameter: Parameter,
  seed: number,
): Point[] {
  const random = new SeededRandom(seed);
  const at = (height: number) => rounded(parameter, low + height * (high - low));
  const points: Point[] = [];
  const add = (beat: number, height: number, goesOn: Point['shape'] = 'straight') => {
    if (beat <= range.to + 1e-9) points.push(point(Math.min(beat, range.to), at(height), goesOn));
  };
  for (let cycle = 0; range.from + cycle * period < range.to - 1e-9; cycle++) {
    const start = range.from + cycle * period;
    switch (shape) {
      case 'sine':
        for (let part = 0; part < 16; part++) add(start + (part / 16) * period, 0.5 + 0.5 * sin((TWO_PI * part) / 16));
        break;
      case 'triangle':
        add(start, 0);
        add(start + period / 2, 1);
        break;
      case 'rampUp':
        add(start, 0);
        add(start + period, 1);
        break;
      case 'rampDown':
        add(start, 1);
        add(start + period, 0);
        break;
      case 'square':
        add(start, 1, 'hold');
        add(start + period / 2, 0, 'hold');
        break;
      case 'randomSteps':
        add(start, random.uniform(), 'hold');
        break;
    }
  }
  if (shape === 'sine') add(range.to, 0.5 + 0.5 * sin((TWO_PI * (range.to - range.from)) / period));
  if (shape === 'triangle') {
    const part = ((range.to - range.from) / period) % 1;
    add(range.to, part <= 0.5 ? 2 * part : 2 - 2 * part);
  }
  return points;
}

/**
 * Leaves out points that a straight line between their neighbours already passes within `tolerance` of the ruler
 * (Douglas and Peucker, "Algorithms for the reduction of the number of points", 1973).
 */
export function thin(points: readonly Point[], tolerance: number, parameter: Parameter, timing: Timing): Point[] {
  if (points.length <= 2) return [...points];
  const heights = points.map((one) => heightOf(parameter, one.value, timing));
  const keep = new Set([0, points.length - 1]);
  const open: [number, number][] = [[0, points.length - 1]];
  for (let piece = open.pop(); piece; piece = open.pop()) {
    const [first, last] = piece;
    const length = points[last]!.beat - points[first]!.beat;
    let worst = 0;
    let at = -1;
    for (let index = first + 1; index < last; index++) {
      const part = length === 0 ? 0 : (points[index]!.beat - points[first]!.beat) / length;
      const off = Math.abs(heights[index]! - (heights[first]! + part * (heights[last]! - heights[first]!)));
      if (off > worst) {
        worst = off;
        at = index;
      }
    }
    if (worst <= tolerance) continue;
    keep.add(at);
    open.push([first, at], [at, last]);
  }
  return points.filter((_, index) => keep.has(index));
}
