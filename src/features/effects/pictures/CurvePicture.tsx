'use client';

import { useMemo, type KeyboardEvent } from 'react';
import type { Picture } from '@/core/analysis/pictures';
import type { Timing } from '@/core/effects/noteValues';
import { useTiming } from '../../session/useRecords';
import { Chart, placeOnPlot, type ChartLine, type Plot } from '../../ui/Chart';
import type { ChartAxis } from '../../ui/axes';
import { formatPitch, formatTime } from '../../ui/music';
import { axesOf } from './axes';
import { usePointerDrag } from '../../ui/usePointerDrag';

/** Height of a picture beside which there are many controls. */
const USUAL_HEIGHT = 290;

/** Something in the picture that can be taken hold of. */
export interface Grip {
  readonly id: string;
  readonly label: string;
  /** Position on the axes. */
  readonly x: number;
  readonly y: number;
  readonly text: string;
  readonly chosen: boolean;
  readonly onChoose: () => void;
  readonly onMove: (x: number, y: number) => void;
  /** Steps of one, across and up. */
  readonly onNudge: (across: number, up: number) => void;
  readonly onSettle: () => void;
  /** A drag is taken back. */
  readonly onCancel: () => void;
  readonly onWheel?: (up: number) => void;
}

interface Props {
  readonly picture: Picture | null;
  readonly grips?: readonly Grip[];
  /** Drawn behind the curves with every frame. */
  readonly live?: readonly ChartLine[];
  /** A double click on the plot. */
  readonly onAdd?: (x: number, y: number) => void;
  readonly label: string;
  readonly height?: number;
}

/** The picture of an effect, large: curves from the engine on ruled axes, with grips where they can be dragged. */
export function CurvePicture({ picture, grips, live, onAdd, label, height = USUAL_HEIGHT }: Props) {
  const timing = useTiming();
  const drawn = useMemo(() => picture && drawingOf(picture, timing), [picture, timing]);
  if (!picture || !drawn) {
    return (
      <div className="echogram echogram-waiting" role="status" style={{ height }}>
        Listening to the effect…
      </div>
    );
  }
  return (
    <figure className="curve-picture">
      <Chart
        x={drawn.x}
        y={drawn.y}
        lines={drawn.lines}
        {...(live ? { live } : {})}
        height={height}
        label={label}
        {...(grips ? { over: (plot: Plot) => <Grips plot={plot} grips={grips} onAdd={onAdd} /> } : {})}
      />
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

const UNITY: Partial<Record<Picture['kind'], readonly [number, number]>> = {
  levels: [-60, 0],
  hysteresis: [-80, 0],
  shape: [-1, 1],
};

function drawingOf(picture: Picture, timing: Timing): { x: ChartAxis; y: ChartAxis; lines: ChartLine[] } {
  const { x, y } = axesOf(picture);
  const word = (axis: ChartAxis, value: number) =>
    axis.title === 'Hz'
      ? formatPitch(value)
      : axis.title === 's' || axis.title === 'ms'
        ? formatTime(value, timing)
        : `${Number(value.toPrecision(3))} ${axis.title}`;
  const lines = picture.lines.map((line, n): ChartLine => ({
    name: line.name,
    ink: n === 0 ? 'wet' : 'ink',
    dashed: n > 0,
    marks: 'none',
    straight: true,
    points: Array.from(line.y, (value, i) => ({ x: picture.x[i]!, y: value })),
    reading: (atX, atY) =>
      `${picture.lines.length > 1 ? `${line.name}: ` : ''}${word(y, Number(atY.toFixed(2)))} at ${word(x, atX)}`.replaceAll(
        '-',
        '−',
      ),
  }));
  const unity = UNITY[picture.kind];
  if (unity) {
    const points = unity.map((value) => ({ x: value, y: value }));
    lines.push({ name: 'unchanged', ink: 'soft', dashed: true, marks: 'none', points, reading: () => 'unchanged' });
  }
  return { x, y, lines };
}

interface GripsProps {
  readonly plot: Plot;
  readonly grips: readonly Grip[];
  readonly onAdd: ((x: number, y: number) => void) | undefined;
}

function Grips({ plot, grips, onAdd }: GripsProps) {
  const gripOf = (id: string) => grips.find((grip) => grip.id === id);
  const [begin] = usePointerDrag<string, [id: string]>({
    begin: (_, id) => {
      gripOf(id)?.onChoose();
      return id;
    },
    move: (id, point) => gripOf(id)?.onMove(...placeOnPlot(plot, point)),
    end: (id) => gripOf(id)?.onSettle(),
    cancel: (id) => gripOf(id)?.onCancel(),
  });
  const onKeyDown = (grip: Grip) => (event: KeyboardEvent) => {
    const finer = event.shiftKey ? 0.2 : 1;
    const [across, up] =
      { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key] ?? [];
    if (across === undefined || up === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    grip.onNudge(across * finer, up * finer);
    grip.onSettle();
  };
  return (
    <div className="chart-sheet" onDoubleClick={(event) => onAdd?.(...placeOnPlot(plot, event))}>
      {grips.map((grip) => (
        <span
          key={grip.id}
          className={`chart-band ${grip.chosen ? 'chart-band-chosen' : ''}`}
          style={{ left: plot.toX(grip.x), top: plot.toY(grip.y) }}
          role="button"
          tabIndex={0}
          aria-label={`${grip.label}, ${grip.text}`}
          aria-pressed={grip.chosen}
          title={grip.text}
          onKeyDown={onKeyDown(grip)}
          onFocus={grip.onChoose}
          onDoubleClick={(event) => event.stopPropagation()}
          onWheel={(event) => {
            grip.onWheel?.(event.deltaY < 0 ? 1 : -1);
            grip.onSettle();
          }}
          onPointerDown={(event) => begin(event, grip.id)}
        >
          {grip.id}
        </span>
      ))}
    </div>
  );
}
