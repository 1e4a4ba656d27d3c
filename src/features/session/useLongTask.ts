import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { isCancelled } from '@/core/errors';
import { errorText } from './notifications';

interface Progress {
  readonly signal: AbortSignal;
  /** @param done from 0 to 1 */
  readonly onProgress: (done: number) => void;
}

/** Long work that a dialog runs and shows itself; one at a time, cancelled when the dialog closes. */
export interface LongTask {
  /** Progress from 0 to 1; null while nothing runs. */
  readonly done: number | null;
  /** Why the last work failed. */
  readonly error: string | null;
  readonly busy: boolean;
  /** @returns null when the work failed or was cancelled */
  run<T>(work: (progress: Progress) => Promise<T>): Promise<T | null>;
  cancel(): void;
}

export function useLongTask(): LongTask {
  const [done, setDone] = useState<number | null>(null);
  const [error, setError] = useState<string | null>(null);
  const running = useRef<AbortController | null>(null);
  const cancel = () => {
    running.current?.abort();
    running.current = null;
    setDone(null);
    setError(null);
  };
  useEffect(() => () => running.current?.abort(), []);
  const run = async <T>(work: (progress: Progress) => Promise<T>): Promise<T | null> => {
    cancel();
    const own = new AbortController();
    const isCurrent = () => running.current === own;
    running.current = own;
    setDone(0);
    try {
      const result = await work({ signal: own.signal, onProgress: (part) => isCurrent() && setDone(part) });
      return isCurrent() ? result : null;
    } catch (caught) {
      if (isCurrent() && !isCancelled(caught)) setError(errorText(caught));
      return null;
    } finally {
      if (isCurrent()) {
        running.current = null;
        setDone(null);
      }
    }
  };
  return { done, error, run, cancel, busy: done !== null };
}

/**
 * Long work that begins when its key is there or changes; work for an earlier key is cancelled by it.
 * @param key what the work is about; null for nothing to do
 * @returns the task, its result for this key, and what does it again
 */
export function useKeyedTask<T>(key: string | null, work: (progress: Progress) => Promise<T>) {
  const task = useLongTask();
  const [found, setFound] = useState<{ readonly key: string; readonly result: T } | null>(null);
  const again = async () => {
    if (key === null) return;
    const result = await task.run(work);
    if (result !== null) setFound({ key, result });
  };
  const begin = useEffectEvent(() => void again());
  useEffect(() => {
    const timer = setTimeout(() => begin());
    return () => clearTimeout(timer);
  }, [key]);
  return { task, result: found?.key === key ? found.result : null, again: () => void again() };
}
