import type { ParameterValue } from '@/core/effects/spec';
import { heightOf, laneOrigin, laneParameter, valueAtHeight } from '@/core/session/lanes';
import type { SessionDocument } from '@/core/session/records/document';
import type { Lane } from '@/core/session/records/lanes';
import { beatsPerBar } from '@/core/session/records/queries';
import { snapTo } from '../ui/music';

export const LANE_HEIGHT = 64;
/** Room for the name above the points, and for the points themselves below. */
const TOP = 20;
const BOTTOM = 8;
export const INNER_HEIGHT = LANE_HEIGHT - TOP - BOTTOM;
/** Pixels around a point within which it is taken hold of. */
const REACH = 8;

/** What the layout of a lane takes from the document. */
export const laneGround = (document: SessionDocument, lane: Lane) => ({
  tempoBpm: document.session.tempoBpm,
  beatsPerBar: beatsPerBar(document.session),
  parameter: laneParameter(document, lane.ownerId, lane.parameter)!,
  /** In beats of the session. */
  origin: laneOrigin(document, lane),
});

/** Layout of a lane: beats and values to pixels and back. Beats of a lane count from its origin. */
export function laneSheet(ground: ReturnType<typeof laneGround>, lane: Lane, pixelsPerBeat: number) {
  const { tempoBpm, beatsPerBar, parameter, origin } = ground;
  const timing = { tempoBpm, beatsPerBar };
  const xOf = (beat: number) => (beat + origin) * pixelsPerBeat;
  const yOf = (height: number) => TOP + (1 - height) * INNER_HEIGHT;
  /** Places of all points. */
  const points = () =>
    lane.points.map(({ beat, value }) => ({ x: xOf(beat), y: yOf(heightOf(parameter, value, timing)) }));
  /** @param grid in beats, 0 for none */
  const snapped = (beat: number, grid: number) => Math.max(0, snapTo(beat + origin, grid) - origin);
  const beatAt = (x: number) => Math.max(0, x / pixelsPerBeat - origin);
  const valueAt = (y: number): ParameterValue => {
    const value = valueAtHeight(parameter, Math.min(1, Math.max(0, 1 - (y - TOP) / INNER_HEIGHT)));
    return typeof value === 'number' ? Number(value.toPrecision(4)) : value;
  };
  return {
    timing,
    parameter,
    origin,
    pixelsPerBeat,
    xOf,
    yOf,
    points,
    snapped,
    beatAt,
    valueAt,
    snappedAt: (x: number, y: number, grid: number) => ({ beat: snapped(beatAt(x), grid), value: valueAt(y) }),
    /** The point within reach; null where there is none. */
    nearest(x: number, y: number): number | null {
      let best: number | null = null;
      let closest = REACH * REACH;
      points().forEach((point, index) => {
        const apart = (point.x - x) ** 2 + (point.y - y) ** 2;
        if (apart >= closest) return;
        closest = apart;
        best = index;
      });
      return best;
    },
    /** Points within a rectangle, given by two of its corners. */
    within(from: { x: number; y: number }, to: { x: number; y: number }): number[] {
      const between = (value: number, a: number, b: number) => value >= Math.min(a, b) && value <= Math.max(a, b);
      return points().flatMap(({ x, y }, index) =>
        between(x, from.x, to.x) && between(y, from.y, to.y) ? [index] : [],
      );
    },
    /** Position of the pointer on the lane, in pixels. */
    pointOf({ clientX, clientY, currentTarget }: { clientX: number; clientY: number; currentTarget: Element }) {
      const { left, top } = currentTarget.getBoundingClientRect();
      return { x: clientX - left, y: clientY - top };
    },
  };
}

export type LaneSheet = ReturnType<typeof laneSheet>;
