'use client';

import { useMemo } from 'react';
import { decibels, frequencyAxis } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';
import { SPECTRUM_FLOOR_DB, useSpectrum } from './useSpectrum';

const NOTHING: readonly ChartLine[] = [];

interface Props {
  readonly targetId: string;
  readonly height: number;
  readonly label: string;
  /** Decibels from tick to tick. */
  readonly step: number;
}

/** The spectra before and after something, live. */
export function SpectrumChart({ targetId, height, label, step }: Props) {
  const levels = useMemo(() => decibels(SPECTRUM_FLOOR_DB, 0, step, 'dB'), [step]);
  return (
    <Chart x={frequencyAxis} y={levels} lines={NOTHING} live={useSpectrum(targetId)} height={height} label={label} />
  );
}
