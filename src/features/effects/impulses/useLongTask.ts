import { useEffect, useRef, useState } from 'react';
import { KinetikonError, messageOf } from '@/core/errors';
import type { JobResults, Task } from '@/core/jobs/kinds';
import { WorkerClient } from '@/runtime/client/workerClient';

/** Work in a worker of its own, since some of it cannot be interrupted: given up, the worker goes with it. */
export function useLongTask() {
  const [done, setDone] = useState<number | null>(null);
  const [error, setError] = useState<string | null>(null);
  const worker = useRef<WorkerClient | null>(null);
  const cancel = () => {
    worker.current?.close();
    worker.current = null;
    setDone(null);
  };
  useEffect(() => () => worker.current?.close(), []);
  /** @returns null when it failed, which is said in `error`; never settles when it was given up */
  const run = async <T extends Task>(task: T): Promise<JobResults[T['kind']] | null> => {
    cancel();
    const own = new WorkerClient();
    worker.current = own;
    setError(null);
    setDone(0);
    try {
      return await own.run(task, { onProgress: setDone });
    } catch (caught) {
      const next = caught instanceof KinetikonError ? (caught.next ?? '') : '';
      setError(`${messageOf(caught)} ${next}`);
      return null;
    } finally {
      own.close();
      if (worker.current === own) {
        worker.current = null;
        setDone(null);
      }
    }
  };
  return { done, error, run, cancel, busy: done !== null };
}
