'use client';

import { useRef } from 'react';
import { findEffect } from '@/core/effects/registry';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { writeStyle, writeText } from '../../ui/drawn';
import { useFrame } from '../../ui/useFrame';

/** Full length of the bar in dB. */
const DEEPEST_DB = 24;

/** Gain reduction now, from the right, with its name, its ends and its figure. */
export function ReductionBar({ insertId }: { insertId: string }) {
  const studio = useStudio();
  const ducks = useStudioState(({ document }) => findEffect(document.inserts[insertId]!.effect)?.reduces !== undefined);
  const bar = useRef<HTMLSpanElement>(null);
  const figure = useRef<HTMLElement>(null);
  useFrame(() => {
    const db = studio.engine.meterValue(insertId, 'reduction') ?? 0;
    writeStyle(bar.current, 'transform', `scaleX(${Math.min(1, -db / DEEPEST_DB).toFixed(3)})`);
    writeText(figure.current, db < -0.05 ? `${db.toFixed(1)} dB` : '0 dB');
  });
  return (
    <div className="reduction">
      <span>{ducks ? 'Ducking' : 'Gain reduction'}</span>
      <small>−{DEEPEST_DB}</small>
      <span className="reduction-well">
        <span ref={bar} />
      </span>
      <small>0</small>
      <em ref={figure}>0 dB</em>
    </div>
  );
}
