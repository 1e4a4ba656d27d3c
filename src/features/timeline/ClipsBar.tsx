import { useMemo } from 'react';
import Button from 'react-bootstrap/Button';
import { overlaps, type Crossfade } from '@/core/session/clipCuts';
import type { Clip } from '@/core/session/records/clips';
import { crossfadeClips } from '../session/clipActs';
import { useStudio, useStudioState } from '../session/StudioContext';
import { FadeFields } from './FadeFields';

const CROSSFADES: readonly (readonly [Crossfade, string, string])[] = [
  ['power', 'equal power', 'For different sounds'],
  ['gain', 'equal gain', 'For parts of the same sound'],
];

/** Tools for several chosen clips; the rest is in their menu. */
export function ClipsBar({ clips }: { readonly clips: readonly Clip[] }) {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const hasOverlaps = useMemo(
    () =>
      overlaps(
        document,
        clips.map(({ id }) => id),
      ).length > 0,
    [document, clips],
  );
  const name = `${clips.length} clips`;
  const seconds = clips.reduce((sum, { lengthSeconds }) => sum + lengthSeconds, 0);
  return (
    <div className="clip-bar">
      <div className="clip-title">
        <b>{name}</b>
        <span>{seconds.toFixed(2)} s in all</span>
      </div>
      <FadeFields clips={clips} name={name} />
      <div className="lane-field">
        <span>crossfade</span>
        {CROSSFADES.map(([kind, label, about]) => (
          <Button
            key={kind}
            variant="line"
            disabled={!hasOverlaps}
            aria-label={`Crossfade at ${label}`}
            title={hasOverlaps ? about : 'None of them overlap'}
            onClick={() => crossfadeClips(studio, kind)}
          >
            {label}
          </Button>
        ))}
      </div>
    </div>
  );
}
