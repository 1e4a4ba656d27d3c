import { useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { ParameterValue } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { copied, movePoints, pasteAt, replaceWithin, withPoint } from '@/core/session/laneEdits';
import { laneName } from '@/core/session/lanes';
import type { Lane, Point } from '@/core/session/records/lanes';
import { useStudio } from '../session/StudioContext';
import { chosenBy } from '../ui/chosenBy';
import { usePointerDrag } from '../ui/usePointerDrag';
import { gridOf } from '../session/snap';
import { INNER_HEIGHT, type LaneSheet } from './laneSheet';

/** Spacing of freehand points where nothing snaps, in beats. */
const FREEHAND = 0.125;
/** Freehand points stand no further apart than this, in beats. */
const WIDEST_FREEHAND = 0.5;
const STEP = 0.01;
const FINE = 0.002;
/** Pixels under which a press is no drag. */
const STILL = 3;

export interface Box {
  readonly from: { readonly x: number; readonly y: number };
  readonly to: { readonly x: number; readonly y: number };
}

type Drag =
  | { kind: 'move'; x: number; y: number; points: readonly Point[]; chosen: ReadonlySet<number> }
  | { kind: 'bend'; y: number; index: number; points: readonly Point[] }
  | { kind: 'box'; x: number; y: number; before: readonly number[] }
  | { kind: 'draw'; drawn: Point[]; points: readonly Point[] };

/** Changes of a lane's points. */
export function useLaneEdits(lane: Lane, { snapped, origin }: LaneSheet) {
  const studio = useStudio();
  const label = () => laneName(studio.state.document, lane);
  const command = (points: readonly Point[]): Command => ({
    type: 'lane.set',
    id: lane.id,
    values: { points: [...points] },
  });
  const set = (points: readonly Point[], what: string, chosen?: Iterable<number>) => {
    studio.editor.perform(command(points), `${what} ${label()}`);
    if (chosen) studio.set({ pointIndices: [...chosen] });
  };
  return {
    set,
    preview: (points: readonly Point[], what: string) => studio.editor.preview(command(points), `${what} ${label()}`),
    addAt(beat: number, value: ParameterValue) {
      const points = withPoint(lane.points, { beat, value, shape: 'straight', bend: 0 });
      set(points, 'Add a point to', [points.findIndex((one) => one.beat === beat)]);
    },
    /** The beat of the playhead, on the grid. */
    playheadBeat: () => snapped(studio.transport.heardBeat - origin, gridOf(studio.state.snap, studio.state.document)),
  };
}

/** Points that are chosen while the lane is open. */
function chosenOf(state: { laneId: string | null; pointIndices: readonly number[] }, lane: Lane): ReadonlySet<number> {
  return new Set(state.laneId === lane.id ? state.pointIndices : []);
}

/**
 * Drags on a lane: points are moved, a stretch is bent with Alt, a box chooses, or points are drawn freehand.
 * @returns the handler of pointerdown, and the box that is drawn
 */
export function useLaneDrag(lane: Lane, sheet: LaneSheet): [(event: PointerEvent<Element>) => void, Box | null] {
  const studio = useStudio();
  const edits = useLaneEdits(lane, sheet);
  const [box, setBox] = useState<Box | null>(null);
  const { parameter, timing, pixelsPerBeat } = sheet;
  const grid = () => gridOf(studio.state.snap, studio.state.document);

  const draw = (drag: Drag & { kind: 'draw' }, x: number, y: number, isFree: boolean) => {
    const spacing = isFree ? FREEHAND : Math.min(grid() || FREEHAND, WIDEST_FREEHAND);
    const { beat, value } = sheet.snappedAt(x, y, spacing);
    const others = drag.drawn.filter((one) => one.beat !== beat);
    drag.drawn = [...others, { beat, value, shape: 'straight' as const, bend: 0 }].sort((a, b) => a.beat - b.beat);
    edits.preview(replaceWithin(drag.points, drag.drawn), 'Draw');
  };

  const [begin] = usePointerDrag<Drag>({
    begin: (event) => {
      if (lane.mirrorOf !== null) return null;
      event.stopPropagation();
      const { x, y } = sheet.pointOf(event);
      const chosen = chosenOf(studio.state, lane);
      if (studio.state.laneId !== lane.id) studio.selection.openLane(lane.id);
      if (studio.state.laneTool === 'draw') {
        const drag: Drag = { kind: 'draw', drawn: [], points: lane.points };
        draw(drag, x, y, event.altKey);
        return drag;
      }
      const hit = sheet.nearest(x, y);
      if (hit !== null) {
        const next = chosenBy(hit, [...chosen], event.shiftKey);
        studio.set({ pointIndices: next });
        return { kind: 'move', x, y, points: lane.points, chosen: new Set(next) };
      }
      const index = event.altKey ? lane.points.findLastIndex((point) => sheet.xOf(point.beat) <= x) : -1;
      if (index >= 0 && index < lane.points.length - 1) return { kind: 'bend', y, index, points: lane.points };
      return { kind: 'box', x, y, before: [...chosen] };
    },
    move: (drag, point) => {
      const { x, y } = sheet.pointOf(point);
      if (drag.kind === 'move') {
        if (drag.chosen.size === 0) return;
        const from = drag.points[Math.min(...drag.chosen)]!.beat;
        const to = sheet.snapped(from + (x - drag.x) / pixelsPerBeat, point.altKey ? 0 : grid());
        const beats = Math.abs(x - drag.x) < STILL ? 0 : to - from;
        const moved = movePoints(drag.points, drag.chosen, beats, (drag.y - y) / INNER_HEIGHT, parameter, timing);
        edits.preview(moved.points, 'Move points of');
        studio.set({ pointIndices: [...moved.chosen] });
      } else if (drag.kind === 'bend') {
        const bend = Math.min(1, Math.max(-1, drag.points[drag.index]!.bend + (drag.y - y) / INNER_HEIGHT));
        const bent = (one: Point, index: number) =>
          index === drag.index ? { ...one, shape: 'curved' as const, bend } : one;
        edits.preview(drag.points.map(bent), 'Bend');
      } else if (drag.kind === 'draw') draw(drag, x, y, point.altKey);
      else {
        setBox({ from: drag, to: { x, y } });
        studio.set({ pointIndices: sheet.within(drag, { x, y }) });
      }
    },
    end: (drag, point) => {
      setBox(null);
      if (drag.kind !== 'box') return studio.editor.settle();
      const { x, y } = sheet.pointOf(point);
      if (Math.abs(x - drag.x) < STILL && Math.abs(y - drag.y) < STILL) studio.set({ pointIndices: [] });
    },
    cancel: (drag) => {
      setBox(null);
      studio.editor.abandon();
      if (drag.kind === 'box') studio.set({ pointIndices: drag.before });
      if (drag.kind === 'move') studio.set({ pointIndices: [...drag.chosen] });
    },
  });
  return [begin, box];
}

/** Keys of a lane: moving, choosing, copying and deleting points. */
export function useLaneKeys(lane: Lane, sheet: LaneSheet): (event: KeyboardEvent) => void {
  const studio = useStudio();
  const edits = useLaneEdits(lane, sheet);
  const { parameter, timing } = sheet;
  return (event) => {
    const chosen = chosenOf(studio.state, lane);
    const step = event.shiftKey ? FINE : STEP;
    const grid = gridOf(studio.state.snap, studio.state.document) || FREEHAND;
    const moveBy = (beats: number, height: number) => {
      if (chosen.size === 0) return;
      const moved = movePoints(lane.points, chosen, beats, height, parameter, timing);
      edits.set(moved.points, 'Move points of', moved.chosen);
    };
    const choose = (direction: number) => {
      if (lane.points.length === 0) return;
      const from = chosen.size === 0 ? (direction > 0 ? -1 : lane.points.length) : Math.min(...chosen);
      studio.set({ pointIndices: [Math.min(lane.points.length - 1, Math.max(0, from + direction))] });
    };
    const remove = (what: string) =>
      edits.set(
        lane.points.filter((_, index) => !chosen.has(index)),
        what,
        [],
      );
    const paste = (points: readonly Point[]) => {
      if (points.length > 0) edits.set(pasteAt(lane.points, points, edits.playheadBeat()), 'Paste points into', []);
    };
    const copy = () => studio.set({ pointClipboard: copied(lane.points, chosen) });
    const keys: Record<string, () => void> = {
      ArrowLeft: () => moveBy(-grid, 0),
      ArrowRight: () => moveBy(grid, 0),
      ArrowUp: () => moveBy(0, step),
      ArrowDown: () => moveBy(0, -step),
      ']': () => choose(1),
      '[': () => choose(-1),
      Enter: () => edits.addAt(edits.playheadBeat(), lane.points.at(-1)?.value ?? parameter.default),
      Escape: () => studio.set({ pointIndices: [] }),
      ...(chosen.size > 0 && {
        Delete: () => remove('Delete points of'),
        Backspace: () => remove('Delete points of'),
      }),
    };
    const withControl: Record<string, () => void> = {
      a: () => studio.set({ pointIndices: lane.points.map((_, index) => index) }),
      v: () => paste(studio.state.pointClipboard),
      ...(chosen.size > 0 && { c: copy, x: () => (copy(), remove('Cut points of')) }),
    };
    const act = event.ctrlKey || event.metaKey ? withControl[event.key.toLowerCase()] : keys[event.key];
    if (!act) return;
    act();
    event.preventDefault();
    event.stopPropagation();
  };
}
