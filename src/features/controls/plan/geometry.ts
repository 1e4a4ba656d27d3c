import type { Spot } from '@/core/effects/place/motion';
import { FARTHEST, NEAREST } from '@/core/effects/place/spec';

/** Radius of the plan's outermost ring, in its own units around the listener. */
export const PLAN = 300;
const HEAD = 20;
/** The plan with what stands around it. */
export const VIEW = { left: -370, top: -342, width: 740, height: 684 } as const;
export const RINGS = [0.5, 1, 2, 4, 8, 16, 32] as const;

const SPAN = Math.log(FARTHEST / NEAREST);

/** Area of the listener. */
const LISTENER = { left: -14, right: 14, top: -22, bottom: 10 };

/** A place on the plan, in its own units from the listener. */
export interface PlanPoint {
  readonly x: number;
  readonly y: number;
}

/** Height of a stem for a metre, and the shortest that is drawn. */
export const STEM = 9;
export const LEAST_STEM = 0.5;

/** Position of a name beside its mark. */
export interface LabelPlace {
  readonly dx: number;
  readonly dy: number;
  readonly anchor: 'start' | 'end' | 'middle';
}

/** Radius at which a distance in metres is drawn: logarithmic, as it is heard. */
export function radiusOf(metres: number): number {
  if (metres < NEAREST) return (HEAD * metres) / NEAREST;
  return HEAD + ((PLAN - HEAD) * Math.log(metres / NEAREST)) / SPAN;
}

/** The distance that is drawn so far from the middle, within what a thing can have. */
export function distanceOf(radius: number): number {
  const part = (radius - HEAD) / (PLAN - HEAD);
  return NEAREST * Math.exp(SPAN * Math.min(1, Math.max(0, part)));
}

/** A place seen from above: to the right is right, ahead is up. */
export function toPlan({ x, y }: Pick<Spot, 'x' | 'y'>): PlanPoint {
  const flat = Math.hypot(x, y);
  if (flat === 0) return { x: 0, y: 0 };
  const scale = radiusOf(flat) / flat;
  return { x: x * scale, y: -y * scale };
}

export function fromPlan({ x, y }: PlanPoint): { azimuth: number; distance: number } {
  return { azimuth: (Math.atan2(x, -y) * 180) / Math.PI, distance: distanceOf(Math.hypot(x, y)) };
}

/** An angle from -180 to 180 degrees. */
export const wrapped = (degrees: number): number => {
  const inside = degrees - 360 * Math.round(degrees / 360);
  return inside === -180 ? 180 : inside;
};

/** A position in words. */
export function placeWords({ x, y, z }: Spot): string {
  const azimuth = Math.round((Math.atan2(x, y) * 180) / Math.PI);
  const side =
    azimuth === 0
      ? 'ahead'
      : Math.abs(azimuth) === 180
        ? 'behind'
        : `${Math.abs(azimuth)}° ${azimuth > 0 ? 'right' : 'left'}`;
  const up = Math.abs(z) < 0.05 ? '' : `, ${Math.abs(z).toFixed(1)} m ${z > 0 ? 'up' : 'down'}`;
  const far = Math.hypot(x, y);
  return `${side}, ${far < 10 ? far.toFixed(1) : Math.round(far)} m${up}`;
}

/** A line through places of the plan. */
export function lineThrough(spots: readonly Pick<Spot, 'x' | 'y'>[], closed: boolean): string {
  const points = spots.map((spot) => {
    const { x, y } = toPlan(spot);
    return `${x.toFixed(1)} ${y.toFixed(1)}`;
  });
  return `M${points.join('L')}${closed ? 'Z' : ''}`;
}

/** A thing on the plan to be named, its name so wide. */
export interface Named extends PlanPoint {
  readonly width: number;
  /** Length of the stem of its height, upwards, and 0 without one. */
  readonly stem: number;
  /** It is named first. */
  readonly chosen: boolean;
}

interface Box {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

const apart = (a: Box, b: Box) => a.right < b.left || a.left > b.right || a.bottom < b.top || a.top > b.bottom;

/**
 * Names beside marks, where they do not cover marks, heights, and other names: where they were if that will do, beside theirs,
 * below, above, or one under the other; null where there is no such place.
 * @param larger by how much they are drawn larger than 13 units
 * @param before the places that they had
 */
export function labelPlaces(
  things: readonly Named[],
  larger = 1,
  before: readonly (LabelPlace | null)[] = [],
): (LabelPlace | null)[] {
  const marks = things.map(({ x, y }): Box => ({ left: x - 11, right: x + 11, top: y - 11, bottom: y + 11 }));
  const stems = things.flatMap(({ x, y, stem }): Box[] =>
    Math.abs(stem) < LEAST_STEM
      ? []
      : [{ left: x + 8, right: x + 8 + 44 * larger, top: y - stem - 5 * larger, bottom: y - stem + 5 * larger }],
  );
  const taken = [LISTENER, ...stems];
  const places: (LabelPlace | null)[] = things.map(() => null);
  const order = things.map((_, n) => n).sort((a, b) => Number(things[b]!.chosen) - Number(things[a]!.chosen));
  for (const n of order) {
    const { x, y, width } = things[n]!;
    const others = [...taken, ...marks.filter((_, k) => k !== n)];
    const boxOf = ({ dx, dy, anchor }: LabelPlace): Box => {
      const left = x + dx - (anchor === 'start' ? 0 : anchor === 'end' ? width : width / 2);
      return { left, right: left + width, top: y + dy - 12 * larger, bottom: y + dy + 4 * larger };
    };
    const right: LabelPlace = { dx: 16, dy: 4, anchor: 'start' };
    const left: LabelPlace = { dx: -16, dy: 4, anchor: 'end' };
    const above: LabelPlace = { dx: 0, dy: -18, anchor: 'middle' };
    const below: LabelPlace = { dx: 0, dy: 14 + 12 * larger, anchor: 'middle' };
    const [own, other] = x < 0 ? [left, right] : [right, left];
    const beside = [17, -17, 34, -34].flatMap((by) =>
      [own, other].map((one): LabelPlace => ({ ...one, dy: one.dy + by * larger })),
    );
    const last = before[n];
    const place = [...(last ? [last] : []), own, other, below, above, ...beside].find((one) => {
      const box = boxOf(one);
      const isInside = box.left > VIEW.left && box.right < VIEW.left + VIEW.width;
      return isInside && others.every((taken) => apart(box, taken));
    });
    if (!place) continue;
    taken.push(boxOf(place));
    places[n] = place;
  }
  return places;
}

/**
 * Width of a thing on the plan, as a path: an arc around the listener from one of its ends to the other.
 * @param size how far its ends stand apart, in metres
 */
export function widthPath({ x, y, z }: Spot, size: number): string {
  const flat = Math.hypot(x, y);
  const half = Math.atan2(size / 2, Math.hypot(flat, z));
  const end = (turn: number) => {
    const spot = { x: x * Math.cos(turn) + y * Math.sin(turn), y: y * Math.cos(turn) - x * Math.sin(turn) };
    const { x: right, y: down } = toPlan(spot);
    return `${right.toFixed(1)} ${down.toFixed(1)}`;
  };
  const radius = radiusOf(flat).toFixed(1);
  return `M${end(-half)}A${radius} ${radius} 0 0 1 ${end(half)}`;
}

/** Position of a pointer on the plan. */
export function pointOnPlan(
  plan: SVGSVGElement,
  at: { readonly clientX: number; readonly clientY: number },
): PlanPoint {
  const { x, y } = new DOMPoint(at.clientX, at.clientY).matrixTransform(plan.getScreenCTM()!.inverse());
  return { x, y };
}
