import { useEffect } from 'react';
import { MAIN_ID } from '@/core/session/records/strips';
import type { Studio } from '../session/studio';
import { followMovement, wakeFrames } from '../ui/useFrame';

/** Level up to which the main meter stands still. */
const SILENT = 1e-5;

/** Draws at display rate while a session plays, rings out or changes, and rests otherwise. */
export function useMovement(studio: Studio): void {
  useEffect(() => {
    const { engine, store } = studio;
    const endFollowing = followMovement(() => {
      const { left, right } = engine.level(MAIN_ID);
      return engine.playing || Math.max(left, right) > SILENT;
    });
    const endListening = store.subscribe(wakeFrames);
    return () => {
      endFollowing();
      endListening();
    };
  }, [studio]);
}
