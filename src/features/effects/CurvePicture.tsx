'use client';

import { useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import type { Picture } from '@/core/analysis/pictures';
import { axesOf, pathOf } from './axes';

const PICTURE_WIDTH = 748;
/** Height of a picture beside which there are many controls. */
const USUAL_HEIGHT = 290;
const LEFT = 40;
const RIGHT = 10;
const TOP = 10;
const BOTTOM = 22;
export const PLOT_WIDTH = PICTURE_WIDTH - LEFT - RIGHT;
export const plotHeight = (height: number) => height - TOP - BOTTOM;

/** Something in the picture that can be taken hold of. */
export interface Grip {
  readonly id: string;
  readonly label: string;
  readonly x: number;
  readonly y: number;
  readonly text: string;
  readonly chosen: boolean;
  readonly onChoose: () => void;
  /** Places within the plot, 0 to 1, the second upward. */
  readonly onMove: (x: number, y: number) => void;
  readonly onNudge: (x: number, y: number) => void;
  readonly onSettle: () => void;
}

interface Props {
  readonly picture: Picture | null;
  readonly grips?: readonly Grip[];
  /** Drawn behind the curves, within the plot. */
  readonly behind?: ReactNode;
  readonly label: string;
  readonly height?: number;
}

/** The picture of an effect, large: curves from the engine on ruled axes, with grips where they can be dragged. */
export function CurvePicture({ picture, grips = [], behind, label, height = USUAL_HEIGHT }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  if (!picture) {
    return (
      <div className="echogram echogram-waiting" role="status">
        Listening to the effect…
      </div>
    );
  }
  const { x, y } = axesOf(picture);
  const plot = plotHeight(height);
  const place = (event: PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    const px = ((event.clientX - box.left) / box.width) * PICTURE_WIDTH - LEFT;
    const py = ((event.clientY - box.top) / box.height) * height - TOP;
    return [Math.min(1, Math.max(0, px / PLOT_WIDTH)), Math.min(1, Math.max(0, 1 - py / plot))];
  };
  return (
    <figure className="echogram curve-picture">
      <svg ref={svg} viewBox={`0 0 ${PICTURE_WIDTH} ${height}`} role="group" aria-label={label}>
        <g transform={`translate(${LEFT} ${TOP})`}>
          {x.ticks.map(([value, word]) => (
            <g key={`x${value}`}>
              <line className="grid-beat" x1={x.place(value) * PLOT_WIDTH} x2={x.place(value) * PLOT_WIDTH} y2={plot} />
              <text x={x.place(value) * PLOT_WIDTH} y={plot + 14} textAnchor="middle">
                {word}
              </text>
            </g>
          ))}
          {y.ticks.map(([value, word]) => (
            <g key={`y${value}`}>
              <line
                className={value === 0 && picture.kind !== 'levels' ? 'grid-bar' : 'grid-beat'}
                x2={PLOT_WIDTH}
                y1={(1 - y.place(value)) * plot}
                y2={(1 - y.place(value)) * plot}
              />
              <text x={-6} y={(1 - y.place(value)) * plot + 4} textAnchor="end">
                {word}
              </text>
            </g>
          ))}
          <text className="axis-title" x={PLOT_WIDTH} y={plot - 5} textAnchor="end">
            {x.title}
          </text>
          <text className="axis-title" x={5} y={12}>
            {y.title}
          </text>
          <svg width={PLOT_WIDTH} height={plot} overflow="hidden">
            {behind}
            {(picture.kind === 'levels' || picture.kind === 'shape') && (
              <path className="line-unity" d={`M0 ${plot}L${PLOT_WIDTH} 0`} />
            )}
            {picture.lines.map((line, index) => (
              <path key={line.name} className={`line-${index}`} d={pathOf(picture, line.y, PLOT_WIDTH, plot)} />
            ))}
          </svg>
          {grips.map((grip) => (
            <GripView key={grip.id} grip={grip} plot={plot} place={place} />
          ))}
        </g>
      </svg>
      {picture.lines.length > 1 && (
        <figcaption>
          {picture.lines.map((line, index) => (
            <span key={line.name} className={`legend legend-${index}`}>
              {line.name}
            </span>
          ))}
        </figcaption>
      )}
    </figure>
  );
}

function GripView(props: { grip: Grip; plot: number; place: (event: PointerEvent) => [number, number] }) {
  const { grip, plot, place } = props;
  const held = useRef(false);
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 0.002 : 0.01;
    const [across, up] =
      { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key] ?? [];
    if (across === undefined || up === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    grip.onNudge(across * step, up * step);
    grip.onSettle();
  };
  return (
    <g
      className={`grip-point ${grip.chosen ? 'grip-chosen' : ''}`}
      transform={`translate(${grip.x * PLOT_WIDTH} ${(1 - grip.y) * plot})`}
      role="button"
      tabIndex={0}
      aria-label={`${grip.label}, ${grip.text}`}
      aria-pressed={grip.chosen}
      onKeyDown={onKeyDown}
      onFocus={grip.onChoose}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = true;
        grip.onChoose();
      }}
      onPointerMove={(event) => held.current && grip.onMove(...place(event))}
      onPointerUp={() => {
        if (held.current) grip.onSettle();
        held.current = false;
      }}
    >
      <title>{grip.text}</title>
      <circle r="13" className="grip-reach" />
      <circle r="6" />
      <text y="-10" textAnchor="middle">
        {grip.id}
      </text>
    </g>
  );
}
