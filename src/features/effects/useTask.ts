import { useEffect, useState } from 'react';
import { KinetikonError } from '@/core/errors';
import type { WorkerResults, WorkerTask } from '@/core/protocol/worker';
import { useStudio } from '../session/StudioContext';

const WAIT_MS = 40;

/**
 * The result of a task that the worker does anew shortly after it changes; the last result stays until then.
 * @param task plain data, or null for nothing
 */
export function useTask<K extends 'echogram' | 'picture'>(
  task: Extract<WorkerTask, { kind: K }> | null,
): WorkerResults[K] | null {
  const studio = useStudio();
  const written = JSON.stringify(task);
  const [result, setResult] = useState<WorkerResults[K] | null>(null);
  useEffect(() => {
    const asked = JSON.parse(written) as Extract<WorkerTask, { kind: K }> | null;
    if (asked === null) return;
    const controller = new AbortController();
    const timer = setTimeout(() => {
      studio.worker.run(asked, { signal: controller.signal }).then(
        (done) => setResult(done as WorkerResults[K]),
        (error: unknown) => {
          if (!(error instanceof KinetikonError && error.code === 'work.cancelled')) studio.report(error);
        },
      );
    }, WAIT_MS);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [studio, written]);
  return result;
}
