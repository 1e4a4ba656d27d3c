'use client';

import { useMemo } from 'react';
import { bandShare } from '@/core/dsp/bandSplit';
import type { Picture } from '@/core/analysis/pictures';
import { useStudio } from '../../session/StudioContext';
import { frequencyAxis, placeOn } from '../../ui/axes';
import { Chart } from '../../ui/Chart';
import { useFrame } from '../../ui/useFrame';
import { axesOf } from './axes';
import { CombCourse, delaysOf, NowLine } from './movingCourses';

const WIDTH = 748;
const LEFT = 46;
const RIGHT = 10;
const PLOT = WIDTH - LEFT - RIGHT;

const Waiting = () => (
  <div className="echogram echogram-waiting" role="status">
    Listening to the effect…
  </div>
);

interface CombProps {
  readonly picture: Picture | null;
  readonly insertId: string;
  readonly label: string;
}

/** The response of a sweeping effect at the place where its sweep is now, and faintly at the others. */
export function CombPicture(props: CombProps) {
  return props.picture ? <Comb {...props} picture={props.picture} /> : <Waiting />;
}

function Comb({ picture, insertId, label }: CombProps & { readonly picture: Picture }) {
  const studio = useStudio();
  const course = useMemo(() => new CombCourse(picture), [picture]);
  useFrame(() => course.move(studio.engine.meterValue(insertId, 'place') ?? 0));
  return (
    <figure className="curve-picture">
      <Chart
        x={frequencyAxis}
        y={axesOf(picture).y}
        lines={course.ghosts}
        live={course.now}
        height={250}
        label={label}
      />
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

/** Delay of an effect over time in ms, and below it the pitch shift in cents. */
export function DelaysPicture(props: DelaysProps) {
  return props.picture ? <Delays {...props} picture={props.picture} /> : <Waiting />;
}

function Delays({ picture, insertId, label, periodic, cycles }: DelaysProps & { readonly picture: Picture }) {
  const studio = useStudio();
  const { delays, bends, marks } = useMemo(() => {
    const courses = delaysOf(picture);
    return { ...courses, marks: [new NowLine(courses.delays.y), new NowLine(courses.bends.y)] as const };
  }, [picture]);
  useFrame(() => {
    const place = studio.engine.meterValue(insertId, 'place') ?? 0;
    for (const mark of marks) mark.move((place / cycles) * delays.x.max);
  });
  return (
    <figure className="curve-picture">
      {[delays, bends].map((courses, n) => (
        <Chart
          key={courses.y.title}
          {...courses}
          {...(periodic ? { live: marks[n as 0 | 1].lines } : {})}
          height={n === 0 ? 150 : 110}
          label={`${label}, ${courses.y.title}`}
        />
      ))}
      <figcaption>
        {delays.lines.slice(0, 12).map((line, n) => (
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
