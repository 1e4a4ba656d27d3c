'use client';

import { useState } from 'react';
import ProgressBar from 'react-bootstrap/ProgressBar';
import { useStudioState } from '../session/StudioContext';

/** A line over the listening strip while sounds are on their way: how many, which, and how far that is. */
export function LoadingSounds() {
  const { missing, unrolled } = useStudioState(({ missingSounds, unrolled }) => ({ missing: missingSounds, unrolled }));
  const [most, setMost] = useState(0);
  const left = missing.length;
  if (left > most || (left === 0 && most > 0)) setMost(left);
  if (left === 0) return null;
  const done = Math.max(0, most - left);
  return (
    <div className="loading-sounds" role="status">
      <b>{most === 1 ? 'Loading a sound' : `Loading sounds, ${done} of ${most}`}</b>
      <ProgressBar now={(100 * (done + unrolled)) / Math.max(1, most)} aria-label="Sounds that are loaded" />
      <span title={missing.join(', ')}>{missing.join(', ')}. What is here plays.</span>
    </div>
  );
}
