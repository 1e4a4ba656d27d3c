'use client';

import { useEffect, useRef } from 'react';
import { SpectrumReader } from '@/core/analysis/spectrum';
import type { Probe } from '@/core/engine/probe';
import { useStudio } from '../session/StudioContext';
import { useFrame } from './useFrame';

interface Props {
  /** The insert or the strip that is watched. */
  readonly targetId: string;
  readonly width: number;
  readonly height: number;
}

const COLUMNS = 160;
const LOWEST_HZ = 20;
const DECADES = 1000;
const FLOOR_DB = -90;
/** Decibels by which a column falls a frame, so that the eye can follow. */
const FALL_DB = 1.2;

/** Live spectra before and after something, as two paths: before filled, after as a line. */
export function SpectrumPaths({ targetId, width, height }: Props) {
  const studio = useStudio();
  const before = useRef<SVGPathElement>(null);
  const after = useRef<SVGPathElement>(null);
  const watched = useRef<Probe | null>(null);
  const reader = useRef<SpectrumReader | null>(null);
  const held = useRef([new Float64Array(COLUMNS).fill(FLOOR_DB), new Float64Array(COLUMNS).fill(FLOOR_DB)] as const);

  useEffect(() => {
    const { probe, end } = studio.engine.watch(targetId);
    watched.current = probe;
    return end;
  }, [studio, targetId]);

  useFrame(() => {
    const probe = watched.current;
    if (!probe) return;
    reader.current ??= new SpectrumReader();
    const rate = studio.state.document.session.sampleRateHz;
    [before, after].forEach((path, index) => {
      const bins = reader.current!.read(probe.rings[2 * index]!, probe.rings[2 * index + 1]!, probe.written);
      const columns = held.current[index as 0 | 1];
      let line = '';
      for (let column = 0; column < COLUMNS; column++) {
        const from = LOWEST_HZ * DECADES ** (column / COLUMNS);
        const to = LOWEST_HZ * DECADES ** ((column + 1) / COLUMNS);
        const size = bins.length * 2;
        const first = Math.min(bins.length - 1, Math.floor((from / rate) * size));
        const last = Math.min(bins.length - 1, Math.max(first, Math.ceil((to / rate) * size) - 1));
        let most = FLOOR_DB;
        for (let bin = first; bin <= last; bin++) most = Math.max(most, bins[bin]!);
        columns[column] = Math.max(most, columns[column]! - FALL_DB);
        const x = ((column + 0.5) / COLUMNS) * width;
        const y = height * Math.min(1, Math.max(0, columns[column]! / FLOOR_DB));
        line += `${column === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`;
      }
      path.current?.setAttribute('d', index === 0 ? `${line}L${width} ${height}L0 ${height}Z` : line);
    });
  });
  return (
    <>
      <path ref={before} className="spectrum-before" />
      <path ref={after} className="spectrum-after" />
    </>
  );
}
