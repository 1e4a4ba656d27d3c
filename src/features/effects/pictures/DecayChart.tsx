'use client';

import { type KeyboardEvent } from 'react';
import type { RoomMeasures } from '@/core/dsp/decay';
import { curveAt } from '@/core/effects/reverb/decayCurve';
import { formatUnit } from '@/core/effects/units';
import { frequencyAxis, type ChartAxis } from '../../ui/axes';
import { Chart, placeOnPlot, type ChartLine, type Plot } from '../../ui/Chart';
import { usePointerDrag } from '../../ui/usePointerDrag';

export interface DecayPoint {
  readonly hz: number;
  readonly seconds: number;
}

interface Props {
  readonly measured: RoomMeasures | null;
  /** The wish, with points to be dragged; null where there is none. */
  readonly wish: {
    readonly points: readonly DecayPoint[];
    readonly mostPoints: number;
    readonly least: number;
    readonly most: number;
    readonly onChange: (points: readonly DecayPoint[]) => void;
    readonly onSettle: () => void;
    /** A drag is taken back. */
    readonly onCancel: () => void;
  } | null;
  readonly height: number;
}

const OCTAVE_TICKS = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];
export const octaveAxis: ChartAxis = { ...frequencyAxis, min: 40, ticks: OCTAVE_TICKS };
const NOTHING: readonly DecayPoint[] = [];
/** Key steps: part of an octave across, part of a value upward. */
const STEP_ACROSS = 2 ** (1 / 6);
const STEP_UP = 1.04;
const FINER = 0.25;

/** Seconds upward to a round number above the longest that is shown. */
export function secondsAxis(longest: number): ChartAxis {
  const step = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50].find((one) => longest / one <= 5) ?? 100;
  const top = Math.max(1, Math.ceil((longest * 1.05) / step)) * step;
  return {
    title: 'decay, s',
    min: 0,
    max: top,
    scale: 'linear',
    ticks: Array.from({ length: Math.round(top / step) + 1 }, (_, n) => n * step),
    word: (value) => String(Number(value.toFixed(2))),
  };
}

/** Decay against frequency, as a report on a room draws it: measured by octaves, behind what is wished. */
export function DecayChart({ measured, wish, height }: Props) {
  const points = wish?.points ?? NOTHING;
  const found = (measured?.octaves ?? []).flatMap(({ centreHz, t30 }) =>
    t30 === null ? [] : [{ x: centreHz, y: t30 }],
  );
  const curve = { x: points.map(({ hz }) => hz), y: points.map(({ seconds }) => seconds) };
  const course =
    points.length === 0
      ? []
      : Array.from({ length: 80 }, (_, n) => 40 * 500 ** (n / 79)).map((hz) => ({ x: hz, y: curveAt(curve, hz) }));
  const reading = (what: string) => (x: number, y: number) =>
    `${what} ${formatUnit('s', Number(y.toPrecision(3)))} at ${formatUnit('Hz', Number(x.toPrecision(3)))}`;
  const lines: ChartLine[] = [
    ...(found.length > 0
      ? [{ name: 'measured', ink: 'dry' as const, points: found, marks: 'bars' as const, reading: reading('Measured') }]
      : []),
    ...(course.length > 0
      ? [
          {
            name: 'wished',
            ink: 'wet' as const,
            points: course,
            marks: 'none' as const,
            dashed: true,
            reading: reading('Wished'),
          },
        ]
      : []),
  ];
  const longest = Math.max(0.2, ...found.map(({ y }) => y), ...points.map(({ seconds }) => seconds));
  const words = found.map(({ x, y }) => `${formatUnit('Hz', x)} ${y.toFixed(2)} s`).join(', ');
  return (
    <Chart
      x={octaveAxis}
      y={secondsAxis(longest)}
      lines={lines}
      height={height}
      label={`Decay by octave, measured on the engine's answer to a click: ${words || 'not yet'}`}
      over={wish ? (plot) => <Grips plot={plot} {...wish} /> : undefined}
    />
  );
}

function Grips(props: { plot: Plot } & NonNullable<Props['wish']>) {
  const { plot, points, mostPoints, least, most, onChange, onSettle, onCancel } = props;
  const within = ({ hz, seconds }: DecayPoint): DecayPoint => ({
    hz: Math.round(Math.min(20000, Math.max(40, hz))),
    seconds: Math.min(most, Math.max(least, seconds)),
  });
  const put = (n: number, point: DecayPoint) =>
    onChange(points.map((one, at) => (at === n ? within(point) : one)).sort((a, b) => a.hz - b.hz));
  const placeOf = (event: { clientX: number; clientY: number; currentTarget: Element }) => {
    const [hz, seconds] = placeOnPlot(plot, event);
    return { hz, seconds };
  };
  const [begin] = usePointerDrag<readonly DecayPoint[], [n: number]>({
    begin: (_, n) => points.filter((_, at) => at !== n),
    move: (others, point) => onChange([...others, within(placeOf(point))].sort((a, b) => a.hz - b.hz)),
    end: onSettle,
    cancel: onCancel,
  });
  const onKey = (n: number) => (event: KeyboardEvent) => {
    const finer = event.shiftKey ? FINER : 1;
    const { hz, seconds } = points[n]!;
    const moves: Record<string, DecayPoint> = {
      ArrowUp: { hz, seconds: seconds * STEP_UP ** finer },
      ArrowDown: { hz, seconds: seconds / STEP_UP ** finer },
      ArrowRight: { hz: hz * STEP_ACROSS ** finer, seconds },
      ArrowLeft: { hz: hz / STEP_ACROSS ** finer, seconds },
    };
    if ((event.key === 'Delete' || event.key === 'Backspace') && points.length > 1) {
      onChange(points.filter((_, at) => at !== n));
    } else if (moves[event.key]) put(n, moves[event.key]!);
    else return;
    event.preventDefault();
    onSettle();
  };
  return (
    <div
      className="chart-sheet"
      onDoubleClick={(event) => {
        if (points.length >= mostPoints) return;
        const point = within(placeOf(event));
        if (points.some(({ hz }) => hz === point.hz)) return;
        onChange([...points, point].sort((a, b) => a.hz - b.hz));
        onSettle();
      }}
    >
      {points.map((point, n) => (
        <span
          key={n}
          className="chart-grip"
          role="slider"
          tabIndex={0}
          aria-label={`Decay point ${n + 1} of ${points.length}`}
          aria-orientation="vertical"
          aria-valuemin={Number(least.toFixed(2))}
          aria-valuemax={Number(most.toFixed(2))}
          aria-valuenow={Number(point.seconds.toFixed(2))}
          aria-valuetext={`${formatUnit('s', Number(point.seconds.toPrecision(3)))} at ${formatUnit('Hz', point.hz)}`}
          title={`${formatUnit('s', Number(point.seconds.toPrecision(3)))} at ${formatUnit('Hz', point.hz)}: drag, or arrow keys; Delete takes it away; a double click adds one`}
          style={{ left: plot.toX(Math.max(40, point.hz)), top: plot.toY(point.seconds) }}
          onKeyDown={onKey(n)}
          onDoubleClick={(event) => event.stopPropagation()}
          onPointerDown={(event) => begin(event, n)}
        />
      ))}
    </div>
  );
}
