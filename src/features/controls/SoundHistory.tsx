'use client';

import { useRef, useState } from 'react';
import { momentaryLoudness } from '@/core/analysis/loudness';
import { PROBE_FRAMES } from '@/core/engine/probe';
import { useStudio, useStudioState } from '../session/StudioContext';
import { decibels, evenly, type ChartAxis } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';
import { pastAxis, PastCourse } from '../ui/pastCourse';
import { useFrame } from '../ui/useFrame';
import { useProbe } from './useProbe';

const SECONDS = 20;
const SOFTEST = -60;
/** As far as the balance is drawn, in decibels. */
const FURTHEST = 12;
/** Display frames between two looks: ten a second. */
const FRAMES_APART = 6;
const NOTHING: readonly ChartLine[] = [];
const TIME = pastAxis(SECONDS);

type Sides = readonly [Float32Array, Float32Array];

/** A quantity that is followed: its value from both channels, null for none, and its axis. */
interface Followed {
  readonly axis: ChartAxis;
  readonly read: (sides: Sides, rate: number) => number | null;
  readonly unit: string;
}

/** Level of the right channel above the left, in dB; null in silence. */
function balanceOf([left, right]: Sides): number | null {
  let [l, r] = [0, 0];
  for (let n = 0; n < left.length; n++) {
    l += left[n]! * left[n]!;
    r += right[n]! * right[n]!;
  }
  if (l + r < 1e-7 * left.length) return null;
  return Math.max(-FURTHEST, Math.min(FURTHEST, 10 * Math.log10((r + 1e-12) / (l + 1e-12))));
}

const FOLLOWED = {
  loudness: {
    axis: decibels(SOFTEST, 0, 12, 'LUFS'),
    read: (sides, rate) => Math.max(SOFTEST, momentaryLoudness(sides, rate)),
    unit: 'LUFS',
  },
  balance: {
    axis: {
      ...{ title: 'dB', min: -FURTHEST, max: FURTHEST, scale: 'linear' },
      ticks: evenly(-FURTHEST, FURTHEST, 4),
      word: (value) => (value === 0 ? 'even' : `${Math.abs(value)} ${value < 0 ? 'left' : 'right'}`),
    },
    read: balanceOf,
    unit: 'dB to the right',
  },
} as const satisfies Record<string, Followed>;

interface Props {
  readonly targetId: string;
  readonly what: keyof typeof FOLLOWED;
  readonly label: string;
}

/** Level or balance over the last seconds, before and after an effect. */
export function SoundHistory({ targetId, what, label }: Props) {
  const { axis, read, unit }: Followed = FOLLOWED[what];
  const studio = useStudio();
  const rate = useStudioState(({ document }) => document.session.sampleRateHz);
  const probe = useProbe(targetId);
  const frame = useRef(0);
  const [courses] = useState(() => [
    new PastCourse(SECONDS, 'before', 'soft', (value, ago) => `before: ${value} ${unit}, ${ago}`, true),
    new PastCourse(SECONDS, 'after', 'dry', (value, ago) => `after: ${value} ${unit}, ${ago}`),
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
      const value = playing ? read(sides, rate) : null;
      course.move(performance.now() / 1000, value);
    }
  });
  return <Chart x={TIME} y={axis} lines={NOTHING} live={live} height={what === 'loudness' ? 150 : 120} label={label} />;
}
