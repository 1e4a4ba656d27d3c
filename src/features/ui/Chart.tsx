'use client';

import {
  Chart as ChartBase,
  Filler,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  Tooltip,
  type ChartDataset,
  type ChartOptions,
} from 'chart.js';
import { Ellipsis } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { Chart as ReactChart } from 'react-chartjs-2';
import type { ChartAxis } from './axes';
import { downloadFile } from './downloadFile';
import { useFrame } from './useFrame';
import { useTheme } from './theme';
import { zoomed, type Stretch } from './zoom';

ChartBase.register(LinearScale, LogarithmicScale, LineController, LineElement, PointElement, Tooltip, Filler);

/** The tokens of the look, as a canvas takes them. */
interface Inks {
  readonly ink: string;
  readonly soft: string;
  readonly hair: string;
  readonly dry: string;
  readonly wet: string;
  readonly key: string;
  readonly sheet: string;
  readonly font: string;
  /** Size of letters, in pixels. */
  readonly size: number;
  readonly shades: readonly string[];
}

function inksNow(): Inks {
  const style = getComputedStyle(document.documentElement);
  const token = (name: string) => style.getPropertyValue(name).trim();
  return {
    ink: token('--ink'),
    soft: token('--ink-soft'),
    hair: token('--hair'),
    dry: token('--dry'),
    wet: token('--wet'),
    key: token('--key'),
    sheet: token('--sheet'),
    font: getComputedStyle(document.body).fontFamily,
    size: (11 / 16) * parseFloat(style.fontSize),
    shades: Array.from({ length: 8 }, (_, n) => token(`--shade-${n + 1}`)),
  };
}

/** Eight shades of what is wet, for courses that are told apart by number. */
export type Ink = 'dry' | 'wet' | 'key' | 'soft' | 'ink' | `shade-${number}`;

/** One course over the chart. */
export interface ChartLine {
  readonly name: string;
  readonly ink: Ink;
  /** Drawn faintly, as what could be. */
  readonly thin?: boolean;
  readonly points: readonly { readonly x: number; readonly y: number }[];
  /** A line, marks without one, or both. */
  readonly marks: 'none' | 'bars' | 'dots';
  readonly dashed?: boolean;
  /** Filled down to the bottom, without a line. */
  readonly filled?: boolean;
  /** From point to point without a bend, as what is measured as finely as it is drawn. */
  readonly straight?: boolean;
  /** Text of the reading at a point under the pointer. */
  readonly reading: (x: number, y: number) => string;
}

/** Area of the plot within the chart, in CSS pixels, and the conversions between pixels and values. */
export interface Plot {
  readonly toX: (value: number) => number;
  readonly toY: (value: number) => number;
  readonly fromX: (pixel: number) => number;
  readonly fromY: (pixel: number) => number;
}

/** Position of a pointer on a plot, in the values of its axes; for events of elements drawn by `over`. */
export function placeOnPlot(
  plot: Plot,
  event: { readonly clientX: number; readonly clientY: number; readonly currentTarget: Element },
): [x: number, y: number] {
  const box = event.currentTarget.closest('.chart-over')!.getBoundingClientRect();
  return [plot.fromX(event.clientX - box.left), plot.fromY(event.clientY - box.top)];
}

interface Props {
  readonly x: ChartAxis;
  readonly y: ChartAxis;
  readonly lines: readonly ChartLine[];
  /** Courses behind those, whose points are moved in place: they are drawn anew with every frame in which they moved. */
  readonly live?: readonly ChartLine[];
  readonly height: number;
  /** Description for screen readers. */
  readonly label: string;
  /** Draws elements over the plot that can be dragged. */
  readonly over?: (plot: Plot) => ReactNode;
}

/**
 * A chart on two ruled axes, drawn in our inks; hovering reads its values. With Ctrl the wheel goes closer, and then it
 * pans sideways; the menu does the same by keyboard.
 */
export function Chart({ x, y, lines, live = NONE, height, label, over }: Props) {
  const theme = useTheme();
  const [inks, setInks] = useState<Inks | null>(null);
  const [plot, setPlot] = useState<Plot | null>(null);
  /** Layout from which `plot` was made. */
  const laid = useRef('');
  // The look is set on the document after this is drawn.
  useEffect(() => {
    const frame = requestAnimationFrame(() => setInks(inksNow()));
    return () => cancelAnimationFrame(frame);
  }, [theme]);
  const base = useRef<ChartBase<'line'>>(null);
  const all = useMemo(() => [...lines, ...live], [lines, live]);
  /** Visible range of the horizontal axis, if it is zoomed. */
  const [stretch, setStretch] = useState<Stretch | null>(null);
  const across = useMemo(() => (stretch ? { ...x, min: stretch[0], max: stretch[1] } : x), [x, stretch]);
  const options = useMemo(
    (): ChartOptions<'line'> | null => inks && optionsOf(across, y, all, inks, stretch !== null),
    [across, y, all, inks, stretch],
  );
  const datasets = useMemo(
    () => (inks ? all.map((line) => datasetOf(line, inks, live.includes(line))) : []),
    [all, live, inks],
  );
  const drawn = useRef(0);
  useFrame(() => {
    if (live.length === 0 || !base.current || !inSight.current) return;
    const now = placesOf(live);
    if (now === drawn.current) return;
    drawn.current = now;
    redraw(base.current, live, lines.length);
  });
  const frame = useRef<HTMLDivElement>(null);
  const inSight = useRef(true);
  useEffect(() => {
    const looked = new IntersectionObserver(([entry]) => {
      inSight.current = entry!.isIntersecting;
    });
    looked.observe(frame.current!);
    return () => looked.disconnect();
  }, []);
  /** Shows less or more of the axis, about a place on it, or another part of it. */
  const zoom = (about: number, times: number, by = 0) => setStretch((now) => zoomed(x, now, about, times, by));
  const onWheel = useRef<(event: WheelEvent) => void>(null);
  useEffect(() => {
    onWheel.current = (event) => {
      const chart = base.current;
      const scale = chart?.scales.x;
      if (!chart || !scale || (!event.ctrlKey && !(stretch && event.deltaX !== 0))) return;
      event.preventDefault();
      const at = (event.clientX - chart.canvas.getBoundingClientRect().left - scale.left) / scale.width;
      if (event.ctrlKey) zoom(at, event.deltaY < 0 ? 1 / CLOSER : CLOSER);
      else zoom(0.5, 1, Math.sign(event.deltaX) * PAN);
    };
  });
  useEffect(() => {
    const listen = (event: WheelEvent) => onWheel.current?.(event);
    const { current } = frame;
    // React's own listeners may not keep the page from zooming.
    current?.addEventListener('wheel', listen, { passive: false });
    return () => current?.removeEventListener('wheel', listen);
  }, []);
  const follow = useMemo(
    () => ({
      id: 'follow',
      afterLayout(of: ChartBase) {
        const { x: across, y: up } = of.scales;
        if (!across || !up) return;
        const next: Plot = {
          toX: (value) => across.getPixelForValue(value),
          toY: (value) => up.getPixelForValue(value),
          fromX: (pixel) => across.getValueForPixel(pixel) ?? 0,
          fromY: (pixel) => up.getValueForPixel(pixel) ?? 0,
        };
        const places = [across.left, across.right, across.min, across.max, up.top, up.bottom, up.min, up.max].join();
        if (places === laid.current) return;
        laid.current = places;
        requestAnimationFrame(() => setPlot(next));
      },
    }),
    [],
  );
  return (
    <div className="chart" style={{ height: `${height / 16}rem` }} ref={frame}>
      {options && (
        <ReactChart
          ref={base}
          type="line"
          data={{ datasets }}
          options={options}
          plugins={[follow]}
          role="img"
          aria-label={label}
        />
      )}
      {plot && over && <div className="chart-over">{over(plot)}</div>}
      <Dropdown align="end" className="chart-menu">
        <Dropdown.Toggle variant="icon" bsPrefix="chart-more" aria-label={`More: ${label}`} title="Zoom and save">
          <Ellipsis size={14} aria-hidden="true" />
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {ZOOMS.map(([word, times]) => (
            <Dropdown.Item
              key={word}
              as="button"
              type="button"
              disabled={times >= 1 && stretch === null}
              onClick={() => zoom(0.5, times)}
            >
              {word}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Item as="button" type="button" onClick={() => savePicture(base.current, inks)}>
            Picture (PNG)
          </Dropdown.Item>
          <Dropdown.Item
            as="button"
            type="button"
            onClick={() => downloadFile('chart.csv', new Blob([csvOf(x, y, all)], { type: 'text/csv' }))}
          >
            Figures (CSV)
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </div>
  );
}

const NONE: readonly ChartLine[] = [];
/** Zoom factor of a turn of the wheel, and the part of the visible range that it pans. */
const CLOSER = 1.25;
const PAN = 0.08;
const ZOOMS = [
  ['Zoom in', 1 / 2],
  ['Zoom out', 2],
  ['Show all', Infinity],
] as const;

/** Moves the points of live courses to where they are now: nothing else of the chart is worked out anew. */
function redraw(chart: ChartBase<'line'>, live: readonly ChartLine[], first: number): void {
  const { x: across, y: up } = chart.scales;
  const metas = live.map((_, n) => chart.getDatasetMeta(first + n));
  const same = live.every(({ points }, n) => metas[n]!.data.length === points.length);
  if (!across || !up || !same) {
    chart.update('none');
    return;
  }
  for (const [n, { points }] of live.entries()) {
    const { data, dataset } = metas[n]!;
    for (let i = 0; i < points.length; i++) {
      const { x, y } = points[i]!;
      const element = data[i] as PointElement;
      element.skip = Number.isNaN(y);
      element.x = across.getPixelForValue(x);
      element.y = up.getPixelForValue(y);
    }
    const line = dataset as LineElement | undefined;
    if (line) line.points = data as unknown as PointElement[];
  }
  chart.draw();
}

/** A figure that changes when a point of some courses does. */
function placesOf(lines: readonly ChartLine[]): number {
  let sum = 0;
  for (const { points } of lines) for (const { x, y } of points) sum = sum * 1.0009 + (x || 0) + 3 * (y || 0);
  return sum;
}

/** Width of the axis at the left, in pixels. */
const LEFT = 50;

/** Saves what is drawn, on the sheet's own colour. */
function savePicture(chart: ChartBase<'line'> | null, inks: Inks | null): void {
  if (!chart || !inks) return;
  const { canvas } = chart;
  const copy = document.createElement('canvas');
  copy.width = canvas.width;
  copy.height = canvas.height;
  const context = copy.getContext('2d')!;
  context.fillStyle = inks.sheet;
  context.fillRect(0, 0, copy.width, copy.height);
  context.drawImage(canvas, 0, 0);
  copy.toBlob((blob) => blob && downloadFile('chart.png', blob), 'image/png');
}

/** All courses of a chart, a point a line. */
export function csvOf(x: ChartAxis, y: ChartAxis, lines: readonly ChartLine[]): string {
  const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
  const rows = lines.flatMap(({ name, points }) => points.map((point) => [quoted(name), point.x, point.y].join(',')));
  return [['course', quoted(x.title), quoted(y.title)].join(','), ...rows, ''].join('\n');
}

const inkOf = (ink: Ink, inks: Inks): string =>
  ink.startsWith('shade-') ? inks.shades[Number(ink.slice(6)) - 1]! : inks[ink as Exclude<Ink, `shade-${number}`>];

/** @param live its points are moved in place, and it goes straight from one to the next */
function datasetOf(line: ChartLine, inks: Inks, live: boolean): ChartDataset<'line'> {
  const { name, ink, points, marks, dashed, filled, thin, straight } = line;
  const colour = thin ? `${inkOf(ink, inks)}55` : inkOf(ink, inks);
  return {
    label: name,
    data: points as { x: number; y: number }[],
    showLine: marks !== 'bars',
    borderColor: colour,
    backgroundColor: filled ? `${colour}33` : marks === 'bars' ? colour : inks.sheet,
    fill: filled ? 'start' : false,
    borderWidth: filled ? 0 : thin ? 0.7 : 1.6,
    borderDash: dashed ? [5, 4] : [],
    pointRadius: marks === 'none' ? 0 : marks === 'bars' ? 7 : 3,
    pointHitRadius: marks === 'none' ? 0 : 10,
    pointStyle: marks === 'bars' ? 'line' : 'circle',
    pointBorderWidth: marks === 'bars' ? 2.5 : 1.5,
    parsing: false,
    cubicInterpolationMode: live || straight ? 'default' : 'monotone',
  };
}

function optionsOf(
  x: ChartAxis,
  y: ChartAxis,
  lines: readonly ChartLine[],
  inks: Inks,
  closer: boolean,
): ChartOptions<'line'> {
  const font = { family: inks.font, size: inks.size };
  /** @param ruled at its own ticks; what is looked at closely is ruled as it comes */
  const scale = ({ title, untitled, min, max, scale, ticks, word }: ChartAxis, ruled: boolean) => ({
    type: scale === 'log' ? ('logarithmic' as const) : ('linear' as const),
    min,
    max,
    title: { display: !untitled, text: title, color: inks.soft, font },
    grid: { color: inks.hair, tickLength: 4 },
    border: { color: inks.soft },
    ticks: {
      color: inks.soft,
      font,
      callback: (value: number | string) => word(ruled ? Number(value) : Number(Number(value).toPrecision(4))),
      autoSkip: !ruled,
      maxRotation: 0,
    },
    ...(ruled
      ? {
          afterBuildTicks(axis: { ticks: { value: number }[] }) {
            axis.ticks = ticks.map((value) => ({ value }));
          },
        }
      : {}),
  });
  return {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    interaction: { mode: 'nearest', axis: 'x', intersect: false },
    scales: {
      x: scale(x, !closer),
      // As wide in all charts, so that those below one another line up.
      y: { ...scale(y, true), afterFit: (axis: { width: number }) => (axis.width = LEFT) },
    } as never,
    plugins: {
      legend: { display: false },
      tooltip: {
        displayColors: false,
        backgroundColor: inks.ink,
        titleColor: inks.sheet,
        bodyColor: inks.sheet,
        titleFont: font,
        bodyFont: font,
        callbacks: {
          title: () => '',
          label: ({ datasetIndex, parsed }) => lines[datasetIndex]?.reading(parsed.x ?? 0, parsed.y ?? 0) ?? '',
        },
      },
    },
  };
}
