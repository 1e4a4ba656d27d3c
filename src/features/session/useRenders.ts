import { useCallback, useEffect, useState } from 'react';
import type { RenderList } from '@/core/protocol/renders';
import { listRenders } from '@/runtime/client/api';
import { useStudio } from './StudioContext';

const LOOK_MS = 1000;

/** Renders of the session on the studio's machines, looked at again while any is under way; null before the first look. */
export function useRenders(): { readonly list: RenderList | null; readonly look: () => void } {
  const studio = useStudio();
  const [list, setList] = useState<RenderList | null>(null);
  const look = useCallback(() => {
    listRenders(studio.sessionId).then(setList, (error: unknown) => studio.messages.report(error, 'renders'));
  }, [studio]);
  const isUnderWay = list?.renders.some(({ state }) => state === 'waiting' || state === 'running') ?? false;
  useEffect(() => {
    look();
    const timer = isUnderWay ? setInterval(look, LOOK_MS) : undefined;
    return () => clearInterval(timer);
  }, [look, isUnderWay]);
  return { list, look };
}
