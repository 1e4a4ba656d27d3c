'use client';

import { memo, useEffect, useMemo, useRef } from 'react';
import Button from 'react-bootstrap/Button';
import { laneName, stripIdOfOwner, valueAtHeight } from '@/core/session/lanes';
import { formatValue } from '@/core/effects/parameterText';
import type { Lane } from '@/core/session/records/lanes';
import { stripOf } from '@/core/session/records/queries';
import { useCorners } from '../session/laneCorners';
import { chosenLanes } from '../session/selection';
import { useStudio, useStudioState } from '../session/StudioContext';
import { gridOf } from '../session/snap';
import { useLaneDrag, useLaneEdits, useLaneKeys } from './laneGestures';
import { laneGround, laneSheet, LANE_HEIGHT } from './laneSheet';

const NO_POINTS: readonly number[] = [];

/** A lane of automation: draw, move, choose with a box, bend, copy and paste its points. */
export const LaneView = memo(function LaneView({ lane, width }: { readonly lane: Lane; readonly width: number }) {
  const studio = useStudio();
  const { label, strip, pixelsPerBeat, open, beside, indices, tool } = useStudioState((state) => ({
    label: laneName(state.document, lane),
    strip: stripOf(state.document, stripIdOfOwner(state.document, lane.ownerId) ?? '')?.name,
    pixelsPerBeat: state.pixelsPerBeat,
    open: state.laneId === lane.id,
    beside: state.laneId !== lane.id && chosenLanes(state).includes(lane.id),
    indices: state.laneId === lane.id ? state.pointIndices : NO_POINTS,
    tool: state.laneTool,
  }));
  const isArriving = useStudioState(({ arrivingLaneId }) => arrivingLaneId === lane.id);
  const drawing = useRef<SVGSVGElement>(null);
  useEffect(() => {
    if (!isArriving) return;
    drawing.current!.focus();
    studio.set({ arrivingLaneId: null });
  }, [isArriving, studio]);
  const chosen = useMemo(() => new Set(indices), [indices]);
  const ground = useStudioState(({ document }) => laneGround(document, lane));
  const sheet = laneSheet(ground, lane, pixelsPerBeat);
  const { parameter, timing, yOf } = sheet;
  const corners = useCorners(lane);
  const points = lane.points.length;
  const edit = useLaneEdits(lane, sheet);
  const [begin, box] = useLaneDrag(lane, sheet);
  const onKeyDown = useLaneKeys(lane, sheet);

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
      className={`auto-lane ${open ? 'auto-lane-open' : beside ? 'auto-lane-beside' : ''} ${lane.on ? '' : 'auto-lane-off'}`}
      style={{ height: LANE_HEIGHT }}
    >
      <div className="lane-scale" aria-hidden="true">
        <span>{formatValue(parameter, valueAtHeight(parameter, 1), timing)}</span>
        <span style={{ top: LANE_HEIGHT - 16 }}>{formatValue(parameter, valueAtHeight(parameter, 0), timing)}</span>
      </div>
      <Button
        bsPrefix="auto-lane-name"
        aria-pressed={open || beside}
        title={`Edit the lane of ${label}; Ctrl or Shift chooses several`}
        onClick={({ ctrlKey, metaKey, shiftKey }) => studio.selection.openLane(lane.id, ctrlKey || metaKey || shiftKey)}
      >
        {label}
        {!lane.on && <em>suspended</em>}
        {lane.mirrorOf !== null && <em>mirrors</em>}
      </Button>
      <svg
        ref={drawing}
        width={width}
        height={LANE_HEIGHT}
        tabIndex={0}
        role="group"
        aria-label={`Lane of ${label} on ${strip}, ${points === 1 ? 'one point' : `${points} points`}`}
        className={tool === 'draw' ? 'lane-drawing' : undefined}
        onKeyDown={onKeyDown}
        onFocus={() => !open && studio.set({ laneId: lane.id, pointIndices: [] })}
        onPointerDown={begin}
        onDoubleClick={(event) => {
          if (lane.mirrorOf !== null || tool === 'draw') return;
          const { x, y } = sheet.pointOf(event);
          const { beat, value } = sheet.snappedAt(
            x,
            y,
            event.altKey ? 0 : gridOf(studio.state.snap, studio.state.document),
          );
          if (sheet.nearest(x, y) === null) edit.addAt(beat, value);
        }}
      >
        <path className="lane-lead" d={lead} />
        <path className="lane-line" d={line} />
        {lane.mirrorOf === null &&
          sheet.points().map(({ x, y }, index) => (
            <g key={index} transform={`translate(${x} ${y})`}>
              <circle
                r={chosen.has(index) ? 5 : 3.5}
                className={chosen.has(index) ? 'lane-point-chosen' : 'lane-point'}
              />
              <title>{formatValue(parameter, lane.points[index]!.value, timing)}</title>
            </g>
          ))}
        {box && (
          <rect
            className="lane-box"
            x={Math.min(box.from.x, box.to.x)}
            y={Math.min(box.from.y, box.to.y)}
            width={Math.abs(box.to.x - box.from.x)}
            height={Math.abs(box.to.y - box.from.y)}
          />
        )}
      </svg>
    </div>
  );
});
