import { useEffect, useRef, useState } from 'react';
import { isCancelled } from '@/core/errors';
import { useStudio } from './StudioContext';

export interface WorkState<T> {
  /** The newest result, which may be that of an earlier key; null before the first. */
  readonly result: T | null;
  /** The key of the result. */
  readonly resultKey: string | null;
  /** True until the work for the key has ended. */
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
  const [found, setFound] = useState<{ readonly key: string; readonly result: T } | null>(null);
  const [endedKey, setEndedKey] = useState<string | null>(null);
  useEffect(() => {
    if (key === null) return;
    const controller = new AbortController();
    const { signal } = controller;
    const begin = () =>
      latest.current.work(signal).then(
        (result) => {
          if (signal.aborted) return;
          setFound({ key, result });
          setEndedKey(key);
        },
        (error: unknown) => {
          if (signal.aborted || isCancelled(error)) return;
          setEndedKey(key);
          studio.messages.report(error);
        },
      );
    const timer = setTimeout(() => void begin(), latest.current.waitMs(key));
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [studio, key]);
  return { result: found?.result ?? null, resultKey: found?.key ?? null, busy: key !== null && endedKey !== key };
}

/** The result of work; null until it is there, after a failure, and again from when its key changes. */
export function useWork<T>(key: string | null, work: (signal: AbortSignal) => Promise<T>): T | null {
  const { result, resultKey } = useWorkState(key, work);
  return resultKey === key ? result : null;
}
