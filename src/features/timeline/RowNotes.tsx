'use client';

import { memo, useMemo } from 'react';
import { stripOf } from '@/core/session/records/queries';
import { useStudioState } from '../session/StudioContext';

/** Semitones that a row spans at least, and the shortest and thinnest that a note is drawn. */
const LEAST_SPAN = 12;
const SHORTEST = 2;
const THINNEST = 2;
const MARGIN = 4;

/** Notes of a strip and of its effects, small, behind the clips of its row. */
export const RowNotes = memo(function RowNotes({ stripId, height }: { stripId: string; height: number }) {
  const { notes, insertIds, pixelsPerBeat } = useStudioState(({ document, pixelsPerBeat }) => ({
    notes: document.notes,
    insertIds: stripOf(document, stripId)?.insertIds,
    pixelsPerBeat,
  }));
  const own = useMemo(() => {
    const owners = new Set([stripId, ...(insertIds ?? [])]);
    return Object.values(notes).filter(({ ownerId }) => owners.has(ownerId));
  }, [notes, stripId, insertIds]);
  if (own.length === 0) return null;
  const keys = own.map(({ key }) => key);
  const [low, high] = [Math.min(...keys), Math.max(...keys)];
  const spare = Math.max(0, LEAST_SPAN - (high - low)) / 2;
  const room = height - 2 * MARGIN;
  const tall = Math.max(THINNEST, Math.min(6, room / (high - low + 2 * spare + 1)));
  const place = (key: number) => MARGIN + ((high + spare - key) / (high - low + 2 * spare)) * (room - tall);
  const end = Math.max(...own.map(({ startBeat, lengthBeats }) => startBeat + lengthBeats));
  const path = own
    .map(({ startBeat, lengthBeats, key }) => {
      const wide = Math.max(SHORTEST, lengthBeats * pixelsPerBeat - 1);
      return `M${(startBeat * pixelsPerBeat).toFixed(1)} ${place(key).toFixed(1)}h${wide.toFixed(1)}v${tall.toFixed(1)}h${(-wide).toFixed(1)}z`;
    })
    .join('');
  return (
    <svg className="row-notes" width={end * pixelsPerBeat + SHORTEST} height={height} aria-hidden="true">
      <path d={path} />
    </svg>
  );
});
