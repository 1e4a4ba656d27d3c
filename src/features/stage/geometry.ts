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

/**
 * Names beside marks, where they do not cover other marks and names: beside theirs, below, above, or one under the other.
 * @param larger by how much they are drawn larger than 13 units
 */
export function labelPlaces(marks: readonly (PlanPoint & { readonly width: number })[], larger = 1): LabelPlace[] {
  const taken = [...marks.map(({ x, y }) => ({ left: x - 11, right: x + 11, top: y - 11, bottom: y + 11 })), LISTENER];
  return marks.map(({ x, y, width }, n) => {
    const right = { dx: 16, dy: 4, anchor: 'start' as const, left: x + 16 };
    const left = { dx: -16, dy: 4, anchor: 'end' as const, left: x - 16 - width };
    const above = { dx: 0, dy: -18, anchor: 'middle' as const, left: x - width / 2 };
    const below = { dx: 0, dy: 14 + 12 * larger, anchor: 'middle' as const, left: x - width / 2 };
    const lower = (one: typeof right | typeof left, by: number) => ({ ...one, dy: one.dy + by });
    const [own, other] = x < 0 ? [left, right] : [right, left];
    const beside = [17, -17, 34, -34].map((by) => by * larger).flatMap((by) => [lower(own, by), lower(other, by)]);
    const boxes = [own, other, below, above, ...beside].map((one) => ({
      one,
      box: { left: one.left, right: one.left + width, top: y + one.dy - 12 * larger, bottom: y + one.dy + 4 * larger },
    }));
    const free = boxes.find(
      ({ box }) =>
        box.left > VIEW.left &&
        box.right < VIEW.left + VIEW.width &&
        taken.every(
          (other, k) =>
            k === n ||
            box.right < other.left ||
            box.left > other.right ||
            box.bottom < other.top ||
            box.top > other.bottom,
        ),
    );
    const { one, box } = free ?? boxes[0]!;
    taken.push(box);
    return { dx: one.dx, dy: one.dy, anchor: one.anchor };
  });
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
