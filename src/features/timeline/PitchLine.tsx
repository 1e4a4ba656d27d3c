'use client';

import { useEffect, useMemo } from 'react';
import { soundOf } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import { scaleOf } from '@/core/session/scales';
import { useStudio, useStudioState } from '../session/StudioContext';
import { pitchLine } from './pitchRange';

interface Props {
  readonly clip: Clip;
  readonly perSecond: number;
  readonly width: number;
  readonly height: number;
}

/** Pitch of a clip over time, on the notes of the session's key. */
export function PitchLine({ clip, perSecond, width, height }: Props) {
  const studio = useStudio();
  const { assetId, course, sought, session } = useStudioState((state) => {
    const sound = soundOf(state.document, clip.source);
    const id = sound ?? '';
    return {
      assetId: sound,
      course: state.pitches[id],
      sought: state.pitchSought[id] ?? 0,
      session: state.document.session,
    };
  });
  useEffect(() => {
    if (assetId !== null) void studio.sounds.findPitch(assetId);
  }, [assetId, studio]);
  const line = useMemo(
    () => (course ? pitchLine(course, clip, perSecond, height, scaleOf(session)) : null),
    [course, clip, perSecond, height, session],
  );
  if (!course) return <span className="pitch-word">finding the pitch, {sought} %</span>;
  if (!line) return <span className="pitch-word">no pitch here</span>;
  return (
    <div className="pitch-line" aria-hidden="true">
      <svg width={width} height={height}>
        {line.rows.map(({ key, y }) => (
          <line key={key} x2={width} y1={y} y2={y} />
        ))}
        <path className="pitch-halo" d={line.path} />
        <path d={line.path} />
      </svg>
      <div className="pitch-names">
        {line.rows.map(
          ({ key, y, name }) =>
            name && (
              <span key={key} style={{ top: y }}>
                {name}
              </span>
            ),
        )}
      </div>
    </div>
  );
}
