'use client';

import { useMemo, useRef } from 'react';
import { decibels, frequencyAxis } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';
import { writeStyle } from '../ui/drawn';
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
  const note = useRef<HTMLParagraphElement>(null);
  const lines = useSpectrum(targetId, undefined, undefined, (isEmpty) =>
    writeStyle(note.current, 'visibility', isEmpty ? 'visible' : 'hidden'),
  );
  return (
    <div className="spectrum">
      <Chart x={frequencyAxis} y={levels} lines={NOTHING} live={lines} height={height} label={label} />
      <p ref={note}>Press Play to see the spectrum.</p>
    </div>
  );
}
