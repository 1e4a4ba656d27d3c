import { useEffect, useRef, useState } from 'react';
import { KinetikonError } from '@/core/errors';
import { useStudio } from './StudioContext';

export interface WorkState<T> {
  /** The newest result; null before the first. */
  readonly result: T | null;
  /** The result is not yet that of the key. */
  readonly busy: boolean;
}

/**
 * The result of work that is done anew when its key changes; work for an earlier key is cancelled. The last result stays
 * until the next is there. Failures are reported.
 * @param key what the work is about; null for nothing to do
 * @param waitMs how long the key has to rest first, so that a drag does not begin work at each move
 */
export function useWorkState<T>(
  key: string | null,
  work: (signal: AbortSignal) => Promise<T>,
  waitMs: (key: string) => number = () => 0,
): WorkState<T> {
  const studio = useStudio();
  const latest = useRef({ work, waitMs });
  useEffect(() => {
    latest.current = { work, waitMs };
  });
  const [done, setDone] = useState<{ readonly key: string; readonly result: T | null } | null>(null);
  useEffect(() => {
    if (key === null) return;
    const controller = new AbortController();
    const { signal } = controller;
    const begin = () =>
      latest.current.work(signal).then(
        (result) => {
          if (!signal.aborted) setDone({ key, result });
        },
        (error: unknown) => {
          if (signal.aborted || (error instanceof KinetikonError && error.code === 'work.cancelled')) return;
          setDone((before) => ({ key, result: before?.result ?? null }));
          studio.messages.report(error);
        },
      );
    const timer = setTimeout(() => void begin(), latest.current.waitMs(key));
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [studio, key]);
  return { result: done?.result ?? null, busy: key !== null && done?.key !== key };
}

/** The result of work; null until it is there, and again from when its key changes. */
export function useWork<T>(key: string | null, work: (signal: AbortSignal) => Promise<T>): T | null {
  const { result, busy } = useWorkState(key, work);
  return busy || key === null ? null : result;
}
