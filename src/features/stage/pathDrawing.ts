import { useState, type PointerEvent, type RefObject } from 'react';
import type { Return, Track } from '@/core/session/records/strips';
import { pathThrough } from '@/core/session/stageMotion';
import { useStudio } from '../session/StudioContext';
import { usePointerDrag } from '../ui/usePointerDrag';
import { fromPlan, pointOnPlan, type PlanPoint } from '../controls/plan/geometry';

/** A drawn path is laid out evenly through so many places. */
const PATH_POINTS = 40;
/** Places under which nothing counts as drawn. */
const FEWEST = 3;

interface Props {
  readonly plan: RefObject<SVGSVGElement | null>;
  /** The thing that takes the path. */
  readonly strip: Track | Return | undefined;
  readonly drawing: boolean;
  readonly onDrawn: () => void;
}

/**
 * Draws the path of a thing by hand.
 * @returns the handler of pointerdown, and what has been drawn
 */
export function usePathDrawing(props: Props): [(event: PointerEvent<Element>) => void, readonly PlanPoint[]] {
  const { plan, strip, drawing, onDrawn } = props;
  const studio = useStudio();
  const [drawn, setDrawn] = useState<readonly PlanPoint[]>([]);
  const [begin] = usePointerDrag<PlanPoint[]>({
    begin: (event) => (drawing ? [pointOnPlan(plan.current!, event)] : null),
    move: (points, point) => {
      points.push(pointOnPlan(plan.current!, point));
      setDrawn([...points]);
    },
    end: (points) => {
      setDrawn([]);
      onDrawn();
      if (!strip || points.length < FEWEST) return;
      try {
        const { values } = pathThrough(evenly(points).map(onStage));
        studio.editor.perform({ type: 'insert.set', id: strip.placeId!, values }, `Draw a path for ${strip.name}`);
      } catch (error) {
        studio.messages.report(error);
      }
    },
    cancel: () => setDrawn([]),
  });
  return [begin, drawn];
}

/** A place of the plan, in metres from the listener. */
function onStage(point: { readonly x: number; readonly y: number }): { x: number; y: number } {
  const { azimuth, distance } = fromPlan(point);
  const turn = (azimuth * Math.PI) / 180;
  return { x: distance * Math.sin(turn), y: distance * Math.cos(turn) };
}

/** A drawn round through as many places as far apart as each other. */
function evenly(drawn: readonly { readonly x: number; readonly y: number }[]): { x: number; y: number }[] {
  const round = [...drawn, drawn[0]!];
  const lengths = [0];
  for (let n = 1; n < round.length; n++)
    lengths.push(lengths[n - 1]! + Math.hypot(round[n]!.x - round[n - 1]!.x, round[n]!.y - round[n - 1]!.y));
  const whole = lengths.at(-1)!;
  let n = 1;
  return Array.from({ length: PATH_POINTS }, (_, k) => {
    const at = (whole * k) / PATH_POINTS;
    while (n < lengths.length - 1 && lengths[n]! < at) n++;
    const part = (at - lengths[n - 1]!) / Math.max(1e-9, lengths[n]! - lengths[n - 1]!);
    const [from, to] = [round[n - 1]!, round[n]!];
    return { x: from.x + part * (to.x - from.x), y: from.y + part * (to.y - from.y) };
  });
}
