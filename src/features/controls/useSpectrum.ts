import { useState } from 'react';
import { SpectrumReader } from '@/core/analysis/spectrum';
import type { Probe } from '@/core/engine/probe';
import { formatUnit } from '@/core/effects/units';
import { formatPitch } from '../ui/music';
import { useStudio } from '../session/StudioContext';
import type { ChartLine } from '../ui/Chart';
import { useFrame } from '../ui/useFrame';
import { useProbe } from './useProbe';

const COLUMNS = 160;
const LOWEST_HZ = 20;
const DECADES = 1000;
/** Levels at or below this are not drawn, in dB. */
export const SPECTRUM_FLOOR_DB = -90;
/** Decibels by which a column falls a frame, so that the eye can follow. */
const FALL_DB = 1.2;

/** A level of a spectrum, and where on the chart it is drawn. */
interface Column {
  readonly x: number;
  y: number;
  db: number;
}

/** Spectra before and after something, as two courses that are moved in place. */
class LiveSpectrum {
  private readonly columns = [0, 1].map(() =>
    Array.from({ length: COLUMNS }, (_, n): Column => ({
      x: LOWEST_HZ * DECADES ** ((n + 0.5) / COLUMNS),
      y: NaN,
      db: SPECTRUM_FLOOR_DB,
    })),
  );
  private reader: SpectrumReader | null = null;
  /** Nothing has sounded lately: there is nothing to draw. */
  isEmpty = true;
  readonly lines = this.columns.map((points, n): ChartLine => {
    const name = n === 0 ? 'before' : 'after';
    const dbAt = (hz: number) => {
      const at = Math.round((Math.log(hz / LOWEST_HZ) / Math.log(DECADES)) * COLUMNS - 0.5);
      return points[Math.min(COLUMNS - 1, Math.max(0, at))]!.db;
    };
    return {
      name,
      ink: 'dry',
      marks: 'none',
      filled: n === 0,
      points,
      reading: (hz) => `${name}: ${formatUnit('dB', Number(dbAt(hz).toFixed(1)))} at ${formatPitch(hz)}`,
    };
  });

  /** @param low,high values of the chart at the floor and at full scale */
  move(probe: Probe, sampleRateHz: number, low: number, high: number): void {
    this.reader ??= new SpectrumReader();
    let loudest = SPECTRUM_FLOOR_DB;
    for (const [index, points] of this.columns.entries()) {
      const bins = this.reader.read(probe.rings[2 * index]!, probe.rings[2 * index + 1]!, probe.written);
      const size = bins.length * 2;
      for (let column = 0; column < COLUMNS; column++) {
        const from = LOWEST_HZ * DECADES ** (column / COLUMNS);
        const to = LOWEST_HZ * DECADES ** ((column + 1) / COLUMNS);
        const first = Math.min(bins.length - 1, Math.floor((from / sampleRateHz) * size));
        const last = Math.min(bins.length - 1, Math.max(first, Math.ceil((to / sampleRateHz) * size) - 1));
        let most = SPECTRUM_FLOOR_DB;
        for (let bin = first; bin <= last; bin++) most = Math.max(most, bins[bin]!);
        const point = points[column]!;
        point.db = Math.max(most, point.db - FALL_DB);
        loudest = Math.max(loudest, point.db);
        point.y = low + (1 - Math.max(0, Math.min(1, point.db / SPECTRUM_FLOOR_DB))) * (high - low);
      }
    }
    this.isEmpty = loudest <= SPECTRUM_FLOOR_DB;
    if (this.isEmpty) for (const points of this.columns) for (const point of points) point.y = NaN;
  }
}

/**
 * Live spectra before and after something, for a chart: two courses that are moved with every frame, and are nowhere while
 * nothing sounds.
 * @param low,high values of the chart at the floor and at full scale
 * @param onEmpty told with every frame whether nothing sounds
 */
export function useSpectrum(
  targetId: string,
  low = SPECTRUM_FLOOR_DB,
  high = 0,
  onEmpty?: (isEmpty: boolean) => void,
): readonly ChartLine[] {
  const studio = useStudio();
  const watched = useProbe(targetId);
  const [spectrum] = useState(() => new LiveSpectrum());
  useFrame(() => {
    if (!watched.current) return;
    spectrum.move(watched.current, studio.state.document.session.sampleRateHz, low, high);
    onEmpty?.(spectrum.isEmpty);
  });
  return spectrum.lines;
}
