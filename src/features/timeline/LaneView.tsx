'use client';

import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import Button from 'react-bootstrap/Button';
import { copied, movePoints, pasteAt, replaceWithin, withPoint } from '@/core/session/laneEdits';
import { cornersOf, heightOf, laneOrigin, laneName, laneParameter, valueAtHeight } from '@/core/session/lanes';
import { formatValue } from '@/core/effects/parameterText';
import type { ParameterValue } from '@/core/effects/spec';
import type { Lane, Point } from '@/core/session/records/lanes';
import { timingOf } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../session/StudioContext';
import { snapTo } from '../ui/music';
import { gridOf } from './geometry';

export const LANE_HEIGHT = 64;
/** Room for the name above the points, and for the points themselves below. */
const TOP = 20;
const BOTTOM = 8;
const INNER = LANE_HEIGHT - TOP - BOTTOM;
/** Pixels around a point within which it is taken hold of. */
const REACH = 8;
/** Spacing of freehand points where nothing snaps, in beats. */
const FREEHAND = 0.125;
const STEP = 0.01;
const FINE = 0.002;

type Drag =
  | { kind: 'move'; x: number; y: number; points: readonly Point[]; chosen: ReadonlySet<number> }
  | { kind: 'bend'; y: number; index: number; points: readonly Point[] }
  | { kind: 'box'; x: number; y: number }
  | { kind: 'draw'; drawn: Point[]; points: readonly Point[] };

/** A lane of automation: draw, move, choose with a box, bend, copy and paste its points. */
export function LaneView({ lane, width }: { lane: Lane; width: number }) {
  const studio = useStudio();
  const { document, pixelsPerBeat, open, indices, tool } = useStudioState((state) => ({
    document: state.document,
    pixelsPerBeat: state.pixelsPerBeat,
    open: state.laneId === lane.id,
    indices: state.pointIndices,
    tool: state.laneTool,
  }));
  const [box, setBox] = useState<{ x: number; y: number; toX: number; toY: number } | null>(null);
  const drag = useRef<Drag | null>(null);
  const timing = timingOf(document);
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  const origin = laneOrigin(document, lane);
  const chosen = useMemo(() => new Set(open ? indices : []), [open, indices]);
  const corners = cornersOf(document, lane, timing);
  const label = laneName(document, lane);

  const xOf = (beat: number) => (beat + origin) * pixelsPerBeat;
  const yOf = (height: number) => TOP + (1 - height) * INNER;
  const beatOf = (x: number) => Math.max(0, x / pixelsPerBeat - origin);
  const heightAtY = (y: number) => Math.min(1, Math.max(0, 1 - (y - TOP) / INNER));
  const snapped = (beat: number, free: boolean) => {
    const grid = free ? 0 : gridOf(studio.state.snap, document);
    return Math.max(0, snapTo(beat + origin, grid) - origin);
  };
  const valueAtY = (y: number): ParameterValue => {
    const value = valueAtHeight(parameter, heightAtY(y));
    return typeof value === 'number' ? Number(value.toPrecision(4)) : value;
  };

  const set = (points: readonly Point[], what: string, next?: Iterable<number>) => {
    studio.editor.perform({ type: 'lane.set', id: lane.id, values: { points: [...points] } }, `${what} ${label}`);
    if (next) studio.set({ pointIndices: [...next] });
  };
  const preview = (points: readonly Point[], what: string) =>
    studio.editor.preview({ type: 'lane.set', id: lane.id, values: { points: [...points] } }, `${what} ${label}`);

  const nearest = (x: number, y: number): number | null => {
    let best: number | null = null;
    let closest = REACH * REACH;
    lane.points.forEach((point, index) => {
      const dx = xOf(point.beat) - x;
      const dy = yOf(heightOf(parameter, point.value, timing)) - y;
      if (dx * dx + dy * dy < closest) {
        closest = dx * dx + dy * dy;
        best = index;
      }
    });
    return best;
  };

  const at = (event: { clientX: number; clientY: number; currentTarget: Element }): [number, number] => {
    const rect = event.currentTarget.getBoundingClientRect();
    return [event.clientX - rect.left, event.clientY - rect.top];
  };

  const onPointerDown = (event: PointerEvent<SVGSVGElement>) => {
    if (event.button !== 0 || lane.mirrorOf !== null) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const [x, y] = at(event);
    if (!open) studio.selection.openLane(lane.id);
    if (tool === 'draw') {
      drag.current = { kind: 'draw', drawn: [], points: lane.points };
      return onPointerMove(event);
    }
    const hit = nearest(x, y);
    if (hit !== null) {
      const next = event.shiftKey
        ? new Set(chosen.has(hit) ? [...chosen].filter((one) => one !== hit) : [...chosen, hit])
        : chosen.has(hit)
          ? new Set(chosen)
          : new Set([hit]);
      studio.set({ pointIndices: [...next] });
      drag.current = { kind: 'move', x, y, points: lane.points, chosen: next };
      return;
    }
    if (event.altKey) {
      const index = lane.points.findLastIndex((point) => xOf(point.beat) <= x);
      if (index >= 0 && index < lane.points.length - 1) {
        drag.current = { kind: 'bend', y, index, points: lane.points };
        return;
      }
    }
    drag.current = { kind: 'box', x, y };
  };

  const onPointerMove = (event: PointerEvent<SVGSVGElement>) => {
    const now = drag.current;
    if (!now) return;
    const [x, y] = at(event);
    if (now.kind === 'move') {
      if (now.chosen.size === 0) return;
      const first = Math.min(...now.chosen);
      const from = now.points[first]!.beat;
      const beats = snapped(from + (x - now.x) / pixelsPerBeat, event.altKey) - from;
      const moved = movePoints(
        now.points,
        now.chosen,
        Math.abs(x - now.x) < 3 ? 0 : beats,
        (now.y - y) / INNER,
        parameter,
        timing,
      );
      preview(moved.points, 'Move points of');
      studio.set({ pointIndices: [...moved.chosen] });
    } else if (now.kind === 'bend') {
      const point = now.points[now.index]!;
      const bend = Math.min(1, Math.max(-1, point.bend + (now.y - y) / INNER));
      preview(
        now.points.map((one, index) => (index === now.index ? { ...one, shape: 'curved' as const, bend } : one)),
        'Bend',
      );
    } else if (now.kind === 'draw') {
      const grid = gridOf(studio.state.snap, document) || FREEHAND;
      const beat = Math.max(0, snapTo(beatOf(x) + origin, event.altKey ? FREEHAND : Math.min(grid, 0.5)) - origin);
      const kept = now.drawn.filter((one) => one.beat !== beat);
      now.drawn = [...kept, { beat, value: valueAtY(y), shape: 'straight' as const, bend: 0 }].sort(
        (a, b) => a.beat - b.beat,
      );
      preview(replaceWithin(now.points, now.drawn), 'Draw');
    } else {
      setBox({ x: now.x, y: now.y, toX: x, toY: y });
      const [left, right] = [Math.min(now.x, x), Math.max(now.x, x)];
      const [top, bottom] = [Math.min(now.y, y), Math.max(now.y, y)];
      const inside = lane.points.flatMap((point, index) => {
        const px = xOf(point.beat);
        const py = yOf(heightOf(parameter, point.value, timing));
        return px >= left && px <= right && py >= top && py <= bottom ? [index] : [];
      });
      studio.set({ pointIndices: inside });
    }
  };

  const onPointerUp = (event: PointerEvent<SVGSVGElement>) => {
    const now = drag.current;
    drag.current = null;
    setBox(null);
    if (!now) return;
    if (now.kind === 'box') {
      const [x, y] = at(event);
      if (Math.abs(x - now.x) < 3 && Math.abs(y - now.y) < 3) studio.set({ pointIndices: [] });
      return;
    }
    studio.editor.settle();
  };

  const addAt = (beat: number, value: ParameterValue) => {
    const points = withPoint(lane.points, { beat, value, shape: 'straight', bend: 0 });
    set(points, 'Add a point to', [points.findIndex((one) => one.beat === beat)]);
  };

  const onKeyDown = (event: KeyboardEvent) => {
    const control = event.ctrlKey || event.metaKey;
    const step = event.shiftKey ? FINE : STEP;
    const grid = gridOf(studio.state.snap, document) || FREEHAND;
    const moveBy = (beats: number, height: number) => {
      if (chosen.size === 0) return;
      const moved = movePoints(lane.points, chosen, beats, height, parameter, timing);
      set(moved.points, 'Move points of', moved.chosen);
    };
    const choose = (direction: number) => {
      if (lane.points.length === 0) return;
      const from = chosen.size === 0 ? (direction > 0 ? -1 : lane.points.length) : Math.min(...chosen);
      studio.set({ pointIndices: [Math.min(lane.points.length - 1, Math.max(0, from + direction))] });
    };
    const remaining = () => lane.points.filter((_, index) => !chosen.has(index));
    if (control && event.key.toLowerCase() === 'a') studio.set({ pointIndices: lane.points.map((_, index) => index) });
    else if (control && event.key.toLowerCase() === 'c' && chosen.size > 0)
      studio.set({ pointClipboard: copied(lane.points, chosen) });
    else if (control && event.key.toLowerCase() === 'x' && chosen.size > 0) {
      studio.set({ pointClipboard: copied(lane.points, chosen) });
      set(remaining(), 'Cut points of', []);
    } else if (control && event.key.toLowerCase() === 'v') {
      const { pointClipboard } = studio.state;
      if (pointClipboard.length > 0)
        set(
          pasteAt(lane.points, pointClipboard, snapped(studio.transport.heardBeat - origin, false)),
          'Paste points into',
          [],
        );
    } else if (control) return;
    else if (event.key === 'ArrowLeft') moveBy(-grid, 0);
    else if (event.key === 'ArrowRight') moveBy(grid, 0);
    else if (event.key === 'ArrowUp') moveBy(0, step);
    else if (event.key === 'ArrowDown') moveBy(0, -step);
    else if (event.key === ']') choose(1);
    else if (event.key === '[') choose(-1);
    else if (event.key === 'Enter') {
      const beat = snapped(studio.transport.heardBeat - origin, false);
      addAt(beat, lane.points.at(-1)?.value ?? parameter.default);
    } else if ((event.key === 'Delete' || event.key === 'Backspace') && chosen.size > 0)
      set(remaining(), 'Delete points of', []);
    else if (event.key === 'Escape') studio.set({ pointIndices: [] });
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const line = corners
    .map(
      ({ beat, height }, index) =>
        `${index === 0 ? 'M' : 'L'}${(beat * pixelsPerBeat).toFixed(1)} ${yOf(height).toFixed(1)}`,
    )
    .join('');
  const first = corners[0];
  const last = corners.at(-1);
  const lead =
    first && last
      ? `M0 ${yOf(first.height)}H${first.beat * pixelsPerBeat}M${last.beat * pixelsPerBeat} ${yOf(last.height)}H${width}`
      : '';
  return (
    <div
      className={`auto-lane ${open ? 'auto-lane-open' : ''} ${lane.on ? '' : 'auto-lane-off'}`}
      style={{ height: LANE_HEIGHT }}
    >
      <div className="lane-scale" aria-hidden="true">
        <span>{formatValue(parameter, valueAtHeight(parameter, 1), timing)}</span>
        <span style={{ top: LANE_HEIGHT - 16 }}>{formatValue(parameter, valueAtHeight(parameter, 0), timing)}</span>
      </div>
      <Button
        bsPrefix="auto-lane-name"
        aria-pressed={open}
        title={`Edit the lane of ${label}`}
        onClick={() => studio.selection.openLane(lane.id)}
      >
        {label}
        {!lane.on && <em>held by hand</em>}
        {lane.mirrorOf !== null && <em>mirrors</em>}
      </Button>
      <svg
        width={width}
        height={LANE_HEIGHT}
        tabIndex={0}
        role="group"
        aria-label={`Lane of ${label}, ${lane.points.length} points`}
        className={tool === 'draw' ? 'lane-drawing' : undefined}
        onKeyDown={onKeyDown}
        onFocus={() => !open && studio.set({ laneId: lane.id, pointIndices: [] })}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
        onDoubleClick={(event) => {
          if (lane.mirrorOf !== null || tool === 'draw') return;
          const [x, y] = at(event);
          if (nearest(x, y) === null) addAt(snapped(beatOf(x), event.altKey), valueAtY(y));
        }}
      >
        <path className="lane-lead" d={lead} />
        <path className="lane-line" d={line} />
        {lane.mirrorOf === null &&
          lane.points.map((point, index) => (
            <g key={index} transform={`translate(${xOf(point.beat)} ${yOf(heightOf(parameter, point.value, timing))})`}>
              <circle
                r={chosen.has(index) ? 5 : 3.5}
                className={chosen.has(index) ? 'lane-point-chosen' : 'lane-point'}
              />
              <title>{formatValue(parameter, point.value, timing)}</title>
            </g>
          ))}
        {box && (
          <rect
            className="lane-box"
            x={Math.min(box.x, box.toX)}
            y={Math.min(box.y, box.toY)}
            width={Math.abs(box.toX - box.x)}
            height={Math.abs(box.toY - box.y)}
          />
        )}
      </svg>
    </div>
  );
}
