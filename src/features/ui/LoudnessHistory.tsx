'use client';

import { useRef, useState } from 'react';
import { momentaryLoudness } from '@/core/analysis/loudness';
import { PROBE_FRAMES } from '@/core/engine/probe';
import { useStudio, useStudioState } from '../session/StudioContext';
import { decibels } from './axes';
import { Chart, type ChartLine } from './Chart';
import { pastAxis, PastCourse } from './pastCourse';
import { useFrame } from './useFrame';
import { useProbe } from './useProbe';

const SECONDS = 20;
const SOFTEST = -60;
/** Display frames between two looks: ten a second. */
const FRAMES_APART = 6;
const NOTHING: readonly ChartLine[] = [];
const TIME = pastAxis(SECONDS);
const LEVEL = decibels(SOFTEST, 0, 12, 'LUFS');
const reading = (name: string) => (value: string, ago: string) => `${name}: ${value} LUFS, ${ago}`;

/** How loud something was over the last seconds, before and after. */
export function LoudnessHistory({ targetId, label }: { readonly targetId: string; readonly label: string }) {
  const studio = useStudio();
  const rate = useStudioState(({ document }) => document.session.sampleRateHz);
  const probe = useProbe(targetId);
  const frame = useRef(0);
  const [courses] = useState(() => [
    new PastCourse(SECONDS, 'before', 'soft', reading('before'), true),
    new PastCourse(SECONDS, 'after', 'dry', reading('after')),
  ]);
  const [sides] = useState(() => [new Float32Array(PROBE_FRAMES), new Float32Array(PROBE_FRAMES)] as const);
  const [live] = useState(() => courses.map(({ line }) => line));
  useFrame(() => {
    const due = frame.current++ % FRAMES_APART === 0;
    const now = probe.current;
    if (!due || !now) return;
    const { playing } = studio.engine;
    for (const [n, course] of courses.entries()) {
      if (playing) for (const [side, into] of sides.entries()) now.newest(2 * n + side, into);
      const value = playing ? Math.max(SOFTEST, momentaryLoudness(sides, rate)) : null;
      course.move(performance.now() / 1000, value);
    }
  });
  return <Chart x={TIME} y={LEVEL} lines={NOTHING} live={live} height={150} label={label} />;
}
