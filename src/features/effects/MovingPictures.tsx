'use client';

import { useMemo, useRef } from 'react';
import { bandShare } from '@/core/dsp/bandSplit';
import { COMB_PLACES, type Picture } from '@/core/analysis/pictures';
import { useStudio } from '../session/StudioContext';
import { useFrame } from '../ui/useFrame';
import { frequencyAxis, placeOn } from '../ui/axes';
import { axesOf, pathOf, reachOf } from './axes';

const WIDTH = 748;
const LEFT = 46;
const RIGHT = 10;
const PLOT = WIDTH - LEFT - RIGHT;
/** Delays that differ by more than this many times what any of them moves are drawn each against its mean. */
const FAR = 3;

const Waiting = () => (
  <div className="echogram echogram-waiting" role="status">
    Listening to the effect…
  </div>
);

/** The response of a sweeping effect at the place where its sweep is now, and faintly at the others. */
export function CombPicture({
  picture,
  insertId,
  label,
}: {
  picture: Picture | null;
  insertId: string;
  label: string;
}) {
  const studio = useStudio();
  const left = useRef<SVGPathElement>(null);
  const right = useRef<SVGPathElement>(null);
  const height = 250;
  const plot = height - 32;
  const paths = useMemo(() => picture?.lines.map((line) => pathOf(picture, line.y, PLOT, plot)) ?? [], [picture, plot]);
  useFrame(() => {
    const place = Math.round((studio.engine.told(insertId, 'place') ?? 0) * COMB_PLACES) % COMB_PLACES;
    left.current?.setAttribute('d', paths[2 * place] ?? '');
    right.current?.setAttribute('d', paths[2 * place + 1] ?? '');
  });
  if (!picture) return <Waiting />;
  const { y } = axesOf(picture);
  return (
    <figure className="echogram curve-picture comb-picture">
      <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={label}>
        <g transform={`translate(${LEFT} 10)`}>
          {frequencyAxis.ticks.map((hz) => (
            <g key={hz}>
              <line
                className="grid-beat"
                x1={placeOn(frequencyAxis, hz) * PLOT}
                x2={placeOn(frequencyAxis, hz) * PLOT}
                y2={plot}
              />
              <text x={placeOn(frequencyAxis, hz) * PLOT} y={plot + 14} textAnchor="middle">
                {frequencyAxis.word(hz)}
              </text>
            </g>
          ))}
          {y.ticks.map((db) => (
            <g key={db}>
              <line
                className={db === 0 ? 'grid-bar' : 'grid-beat'}
                x2={PLOT}
                y1={(1 - placeOn(y, db)) * plot}
                y2={(1 - placeOn(y, db)) * plot}
              />
              <text x={-6} y={(1 - placeOn(y, db)) * plot + 4} textAnchor="end">
                {y.word(db)}
              </text>
            </g>
          ))}
          <text className="axis-title" x={PLOT} y={plot - 5} textAnchor="end">
            Hz
          </text>
          <text className="axis-title" x={5} y={12}>
            dB
          </text>
          <svg width={PLOT} height={plot} overflow="hidden">
            {paths
              .filter((_, n) => n % 2 === 0 && (n / 2) % 6 === 0)
              .map((path, n) => (
                <path key={n} className="line-ghost" d={path} />
              ))}
            <path ref={right} className="line-1" d={paths[1]} />
            <path ref={left} className="line-0" d={paths[0]} />
          </svg>
        </g>
      </svg>
      <figcaption>
        <span className="legend legend-0">left now</span>
        <span className="legend legend-1">right now</span>
        <span className="legend legend-ghost">elsewhere in the sweep</span>
      </figcaption>
    </figure>
  );
}

/** Which part of the spectrum the copies are made of, as the engine divides it. */
export function BandStrip({
  lowHz,
  highHz,
  window,
  sampleRate,
}: {
  lowHz: number;
  highHz: number;
  window: number;
  sampleRate: number;
}) {
  const points = Array.from({ length: 240 }, (_, n) => {
    const hz = 20 * 1000 ** (n / 239);
    return [LEFT + (n / 239) * PLOT, 30 - 26 * bandShare(hz, lowHz, highHz, sampleRate, window)] as const;
  });
  return (
    <svg
      className="band-strip"
      viewBox={`0 0 ${WIDTH} 34`}
      preserveAspectRatio="none"
      role="img"
      aria-label="The band that moves"
    >
      <path
        d={`M${LEFT} 30${points.map(([x, y]) => `L${x.toFixed(1)} ${y.toFixed(1)}`).join('')}L${LEFT + PLOT} 30Z`}
      />
      <text x="4" y="21">
        moves
      </text>
      {frequencyAxis.ticks
        .filter((hz) => [100, 1000, 10000].includes(hz))
        .map((hz) => (
          <text key={hz} x={LEFT + placeOn(frequencyAxis, hz) * PLOT} y="21" textAnchor="middle">
            {frequencyAxis.word(hz)}
          </text>
        ))}
    </svg>
  );
}

interface DelaysProps {
  readonly picture: Picture | null;
  readonly insertId: string;
  readonly label: string;
  /** The sweep repeats, so that its place now can be shown. */
  readonly periodic: boolean;
  /** Cycles shown. */
  readonly cycles: number;
}

/** Where an effect reads, in milliseconds over time, and below what that does to the pitch, in cents. */
export function DelaysPicture({ picture, insertId, label, periodic, cycles }: DelaysProps) {
  const studio = useStudio();
  const now = useRef<SVGLineElement>(null);
  useFrame(() => {
    const place = studio.engine.told(insertId, 'place') ?? 0;
    const at = String(LEFT + (place / cycles) * PLOT);
    now.current?.setAttribute('x1', at);
    now.current?.setAttribute('x2', at);
  });
  if (!picture) return <Waiting />;
  const half = picture.lines.length / 2;
  const { lines: delays, apart } = comparable(picture.lines.slice(0, half));
  const bends = picture.lines.slice(half);
  const seconds = picture.x.at(-1)!;
  const [reachLow, high] = reachOf(delays, 0.2);
  const low = apart ? reachLow : Math.max(0, reachLow);
  const [down, up] = reachOf(bends, 2);
  const most = Math.max(Math.abs(down), Math.abs(up));
  return (
    <figure className="echogram curve-picture delays-picture">
      <svg viewBox={`0 0 ${WIDTH} 204`} role="img" aria-label={label}>
        <Course
          lines={delays}
          x={picture.x}
          top={8}
          height={98}
          low={low}
          high={high}
          unit={apart ? 'ms from its mean' : 'ms'}
        />
        <Course lines={bends} x={picture.x} top={124} height={54} low={-most} high={most} unit="cents" />
        {[0, 0.25, 0.5, 0.75, 1].map((part) => (
          <text
            key={part}
            x={LEFT + part * PLOT}
            y={196}
            textAnchor={part === 1 ? 'end' : part === 0 ? 'start' : 'middle'}
          >
            {(part * seconds).toFixed(seconds < 10 ? 2 : 1)} s
          </text>
        ))}
        {periodic && <line ref={now} className="line-now" y1="8" y2="178" />}
      </svg>
      <figcaption>
        {delays.slice(0, 12).map((line, n) => (
          <span
            key={line.name}
            className={`legend legend-course-${Math.floor(n / 2) % 6} ${n % 2 ? 'legend-right' : ''}`}
          >
            {line.name}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}

const meanOf = (y: Float64Array) => y.reduce((sum, value) => sum + value, 0) / y.length;

/** Delays as they are; where they lie much further apart than any moves, each against its mean, which its name tells. */
function comparable(lines: Picture['lines']): { lines: Picture['lines']; apart: boolean } {
  const means = lines.map(({ y }) => meanOf(y));
  const moves = Math.max(...lines.map(({ y }) => Math.max(...y) - Math.min(...y)));
  if (Math.max(...means) - Math.min(...means) <= FAR * moves) return { lines, apart: false };
  return {
    apart: true,
    lines: lines.map(({ name, y }, n) => ({
      name: `${name}, ${means[n]!.toFixed(means[n]! < 100 ? 1 : 0)} ms`,
      y: y.map((value) => value - means[n]!),
    })),
  };
}

function Course(props: {
  lines: Picture['lines'];
  x: Float64Array;
  top: number;
  height: number;
  low: number;
  high: number;
  unit: string;
}) {
  const { lines, x, top, height, low, high, unit } = props;
  const last = x.at(-1)!;
  const y = (value: number) => (1 - (value - low) / (high - low)) * height;
  const digits = high - low < 2 ? 2 : high - low < 20 ? 1 : 0;
  return (
    <g transform={`translate(${LEFT} ${top})`}>
      {[low, (low + high) / 2, high].map((value, n) => (
        <g key={n}>
          <line
            className={n === 1 && unit === 'cents' ? 'grid-bar' : 'grid-beat'}
            x2={PLOT}
            y1={y(value)}
            y2={y(value)}
          />
          <text x={-6} y={y(value) + 4} textAnchor="end">
            {value.toFixed(digits).replace(/^-(0(\.0+)?)$/, '$1')}
          </text>
        </g>
      ))}
      {lines.map((line, n) => {
        let path = '';
        line.y.forEach(
          (value, i) => (path += `${i === 0 ? 'M' : 'L'}${((x[i]! / last) * PLOT).toFixed(1)} ${y(value).toFixed(1)}`),
        );
        return (
          <path
            key={line.name}
            className={`line-course line-course-${Math.floor(n / 2) % 6} ${n % 2 ? 'line-right' : ''}`}
            d={path}
          />
        );
      })}
      <text className="axis-title" x={5} y={12}>
        {unit}
      </text>
    </g>
  );
}
