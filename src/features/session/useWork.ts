import { useEffect, useRef, useState } from 'react';
import { useStudio } from './StudioContext';

/**
 * What work on something comes to; null until it is done, and for nothing. It is given up when something else is asked about.
 * @param key what it is about; null for nothing
 */
export function useWork<T>(key: string | null, work: (signal: AbortSignal) => Promise<T>): T | null {
  const studio = useStudio();
  const latest = useRef(work);
  useEffect(() => {
    latest.current = work;
  });
  const [found, setFound] = useState<{ readonly key: string; readonly result: T } | null>(null);
  useEffect(() => {
    if (key === null) return;
    const giveUp = new AbortController();
    latest.current(giveUp.signal).then(
      (result) => setFound({ key, result }),
      (error: unknown) => studio.messages.report(error),
    );
    return () => giveUp.abort();
  }, [studio, key]);
  return found !== null && found.key === key ? found.result : null;
}
