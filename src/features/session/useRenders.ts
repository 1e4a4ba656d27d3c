import { useCallback, useEffect, useState } from 'react';
import type { RenderList } from '@/core/protocol/renders';
import { isUnderWay } from '@/core/protocol/renderStates';
import { listRenders } from '@/runtime/client/api';
import { useStudio } from './StudioContext';

/** Looks at renders under way, and at whether others have been asked for. */
const LOOK_MS = 1000;
const IDLE_LOOK_MS = 4000;

/** Renders of the session on the studio's machines, looked at every few seconds where there are machines; null before the first look. */
export function useRenders(): { readonly list: RenderList | null; readonly look: () => void } {
  const studio = useStudio();
  const [list, setList] = useState<RenderList | null>(null);
  const look = useCallback(() => {
    listRenders(studio.sessionId).then(setList, (error: unknown) => studio.messages.report(error, 'renders'));
  }, [studio]);
  const isAnyUnderWay = list?.renders.some(isUnderWay) ?? false;
  const hasMachines = list?.hasMachines ?? false;
  useEffect(() => {
    look();
    if (!hasMachines && !isAnyUnderWay) return;
    const timer = setInterval(look, isAnyUnderWay ? LOOK_MS : IDLE_LOOK_MS);
    return () => clearInterval(timer);
  }, [look, hasMachines, isAnyUnderWay]);
  return { list, look };
}
