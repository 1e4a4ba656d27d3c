'use client';

import { useState } from 'react';
import { formatUnit } from '@/core/effects/units';
import { useStudio } from '../session/StudioContext';
import { decibels, evenly, minus, type ChartAxis } from './axes';
import { Chart, type ChartLine } from './Chart';

import { useFrame } from './useFrame';

const SECONDS = 8;
const DEEPEST_DB = 24;
const NOTHING: readonly ChartLine[] = [];

const TIME: ChartAxis = {
  title: 's',
  min: -SECONDS,
  max: 0,
  scale: 'linear',
  ticks: evenly(-SECONDS, 0, 4),
  word: (value) => (value === 0 ? 'now' : minus(String(value))),
};
const LEVEL = decibels(-DEEPEST_DB, 0, 6, 'dB');

/** What has been taken away over the last seconds, as a course that moves to the left. */
class Course {
  private readonly points: { at: number; x: number; y: number }[] = [];
  readonly lines: readonly ChartLine[] = [
    {
      name: 'taken away',
      ink: 'key',
      marks: 'none',
      points: this.points,
      reading: (x, y) => `${formatUnit('dB', Number(y.toFixed(1)))}, ${(-x).toFixed(1)} s ago`,
    },
  ];

  /** @param db what is taken away now, while there is something to tell */
  move(now: number, db: number, playing: boolean): void {
    const { points } = this;
    if (playing || (points.at(-1)?.y ?? 0) < -0.05) points.push({ at: now, x: 0, y: Math.max(-DEEPEST_DB, db) });
    while (points.length > 0 && points[0]!.at < now - SECONDS) points.shift();
    for (const point of points) point.x = point.at - now;
  }
}

/** What an effect has taken away over the last seconds, now at the right. */
export function ReductionHistory({ insertId }: { readonly insertId: string }) {
  const studio = useStudio();
  const [course] = useState(() => new Course());
  useFrame(() =>
    course.move(performance.now() / 1000, studio.engine.told(insertId, 'reduction') ?? 0, studio.engine.playing),
  );
  return (
    <Chart
      x={TIME}
      y={LEVEL}
      lines={NOTHING}
      live={course.lines}
      height={120}
      label={`Level taken away over the last ${SECONDS} seconds, to ${DEEPEST_DB} dB`}
    />
  );
}
