'use client';

import { useRef } from 'react';
import { useStudio } from '../session/StudioContext';
import { useFrame } from './useFrame';

const WIDTH = 640;
const HEIGHT = 54;
const SECONDS = 8;
const DEEPEST_DB = 24;

/** What an effect has taken away over the last seconds, now at the right. */
export function ReductionHistory({ insertId }: { insertId: string }) {
  const studio = useStudio();
  const path = useRef<SVGPathElement>(null);
  const points = useRef<{ at: number; db: number }[]>([]);
  useFrame(() => {
    const now = performance.now() / 1000;
    const list = points.current;
    if (studio.engine.playing || (list.at(-1)?.db ?? 0) < -0.05)
      list.push({ at: now, db: studio.engine.told(insertId, 'reduction') ?? 0 });
    while (list.length > 0 && list[0]!.at < now - SECONDS) list.shift();
    if (list.length === 0) return;
    let line = '';
    for (const { at, db } of list) {
      const x = WIDTH * (1 - (now - at) / SECONDS);
      const y = Math.min(1, -db / DEEPEST_DB) * HEIGHT;
      line += `${line === '' ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`;
    }
    path.current?.setAttribute('d', line);
  });
  return (
    <svg
      className="reduction-history"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Level taken away over the last ${SECONDS} seconds, to ${DEEPEST_DB} dB`}
    >
      {[6, 12, 18].map((db) => (
        <line key={db} x2={WIDTH} y1={(db / DEEPEST_DB) * HEIGHT} y2={(db / DEEPEST_DB) * HEIGHT} />
      ))}
      <path ref={path} />
    </svg>
  );
}
