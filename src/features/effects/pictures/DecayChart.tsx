'use client';

import type { RoomMeasures } from '@/core/dsp/decay';
import { OCTAVES_HZ } from '@/core/dsp/octaveBands';
import { formatUnit } from '@/core/effects/units';
import { frequencyAxis, type ChartAxis } from '../../ui/axes';
import { Chart, type ChartLine } from '../../ui/Chart';

/** The nine octaves, each in the middle of its column. */
export const octaveAxis: ChartAxis = { ...frequencyAxis, min: 40, max: 25000, ticks: OCTAVES_HZ };

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

/** Measured decay by octave, for screen readers. */
export function decayInWords(measured: RoomMeasures | null): string {
  const words = (measured?.octaves ?? []).flatMap(({ centreHz, t30 }) =>
    t30 === null ? [] : [`${formatUnit('Hz', centreHz)} ${t30.toFixed(2)} s`],
  );
  return `Decay by octave, measured on the engine's answer to a click: ${words.join(', ') || 'not yet'}`;
}

/** Measured decay by octave, as a report on a room draws it. */
export function DecayChart({ measured, height }: { readonly measured: RoomMeasures | null; readonly height: number }) {
  const found = (measured?.octaves ?? []).flatMap(({ centreHz, t30 }) =>
    t30 === null ? [] : [{ x: centreHz, y: t30 }],
  );
  const reading = (x: number, y: number) =>
    `Measured ${formatUnit('s', Number(y.toPrecision(3)))} at ${formatUnit('Hz', Number(x.toPrecision(3)))}`;
  const lines: ChartLine[] =
    found.length > 0 ? [{ name: 'measured', ink: 'dry', points: found, marks: 'bars', reading }] : [];
  return (
    <Chart
      x={octaveAxis}
      y={secondsAxis(Math.max(0.2, ...found.map(({ y }) => y)))}
      lines={lines}
      height={height}
      label={decayInWords(measured)}
    />
  );
}
