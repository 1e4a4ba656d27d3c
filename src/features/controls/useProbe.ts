import { useEffect, useRef, type RefObject } from 'react';
import type { Probe } from '@/core/engine/probe';
import { useStudio } from '../session/StudioContext';

/** Watches the sound before and after an effect or a strip, as long as the component is there. */
export function useProbe(targetId: string): RefObject<Probe | null> {
  const studio = useStudio();
  const watched = useRef<Probe | null>(null);
  useEffect(() => {
    const { probe, end } = studio.engine.watch(targetId);
    watched.current = probe;
    return end;
  }, [studio, targetId]);
  return watched;
}
