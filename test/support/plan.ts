import { toPlan } from '@/features/controls/plan/geometry';

// The test's browser knows no transforms: the plan is as large as its own units.
window.DOMPoint ??= class {
  constructor(
    readonly x: number,
    readonly y: number,
  ) {}
  matrixTransform() {
    return this;
  }
} as never;
SVGSVGElement.prototype.getScreenCTM = () => ({ inverse: () => ({}) }) as never;

/** A place on the plan by direction in degrees, 90 to the right, and distance in metres. */
export function onPlan(azimuth: number, metres: number): [number, number] {
  const turn = (azimuth * Math.PI) / 180;
  const { x, y } = toPlan({ x: metres * Math.sin(turn), y: metres * Math.cos(turn) });
  return [x, y];
}
