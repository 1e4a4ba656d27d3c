import { useEffect, useState } from 'react';
import type { SoundStretch } from '@/core/analysis/outline';
import { useStudio, useStudioState } from './StudioContext';

/**
 * Some frames of a sound for a drawing; null until they are there.
 * @param soundId null where none is wanted
 * @param from,to in frames at the session's rate
 */
export function useStretch(soundId: string | null, from: number, to: number): SoundStretch | null {
  const studio = useStudio();
  const [found, setFound] = useState<{ readonly soundId: string; readonly stretch: SoundStretch } | null>(null);
  // Asked again when a sound has come.
  const missing = useStudioState(({ missingSounds }) => missingSounds.length);
  useEffect(() => {
    if (soundId === null) return;
    let isWanted = true;
    void studio.sounds.stretch(soundId, from, to).then((stretch) => {
      if (isWanted && stretch) setFound({ soundId, stretch });
    });
    return () => {
      isWanted = false;
    };
  }, [studio, soundId, from, to, missing]);
  return soundId !== null && found?.soundId === soundId ? found.stretch : null;
}
