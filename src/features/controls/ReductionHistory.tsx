'use client';

import { useState } from 'react';
import { useStudio } from '../session/StudioContext';
import { decibels } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';
import { pastAxis, PastCourse } from '../ui/pastCourse';
import { useFrame } from '../ui/useFrame';

const SECONDS = 8;
const DEEPEST_DB = 24;
const NOTHING: readonly ChartLine[] = [];
const TIME = pastAxis(SECONDS);
const LEVEL = decibels(-DEEPEST_DB, 0, 6, 'dB');

/** Gain reduction of an effect over the last seconds, the present at the right. */
export function ReductionHistory({ insertId }: { readonly insertId: string }) {
  const studio = useStudio();
  const [course] = useState(() => new PastCourse(SECONDS, 'taken away', 'key', (value, ago) => `${value} dB, ${ago}`));
  const [live] = useState(() => [course.line]);
  useFrame(() => {
    const db = studio.engine.meterValue(insertId, 'reduction') ?? 0;
    const tells = studio.engine.playing || (course.last ?? 0) < -0.05;
    course.move(performance.now() / 1000, tells ? Math.max(-DEEPEST_DB, db) : null);
  });
  return (
    <Chart
      x={TIME}
      y={LEVEL}
      lines={NOTHING}
      live={live}
      height={120}
      label={`Level taken away over the last ${SECONDS} seconds, to ${DEEPEST_DB} dB`}
    />
  );
}
