import { useEffect, useState } from 'react';
import { KinetikonError } from '@/core/errors';
import type { JobResults, Task } from '@/core/jobs/kinds';
import { useStudio } from '../session/StudioContext';

const WAIT_MS = 40;

type PictureKind = 'echogram' | 'picture' | 'room';
type PictureTask = Extract<Task, { kind: PictureKind }>;

/** What came of a task, and whether it is still worked on since it changed. */
export interface TaskState<R> {
  readonly result: R | null;
  readonly busy: boolean;
}

/** The result of a task that the worker does anew shortly after it changes; the last result stays until then. */
export function useTask<K extends PictureKind>(task: Extract<Task, { kind: K }> | null): JobResults[K] | null {
  return useTaskState(task).result;
}

/**
 * The same with whether it is up to date. One task in several places is done once, and what was done lately is there at
 * once.
 * @param task plain data, or null for nothing
 */
export function useTaskState<K extends PictureKind>(task: Extract<Task, { kind: K }> | null): TaskState<JobResults[K]> {
  const studio = useStudio();
  const written = JSON.stringify(task);
  const [done, setDone] = useState<{ readonly of: string; readonly result: JobResults[K] | null } | null>(null);
  useEffect(() => {
    const asked = JSON.parse(written) as PictureTask | null;
    if (asked === null) return;
    let open = true;
    let leave = () => {};
    const ask = () => {
      const work = studio.pictures.ask(written, async (signal) => {
        // What is played comes first.
        await studio.sounds.firstSounds(signal);
        const sounds = await studio.sounds.samplesFor(asked.inserts, signal);
        return studio.worker.run({ ...asked, sounds } as PictureTask, { signal });
      });
      ({ leave } = work);
      work.result.then(
        (result) => open && setDone({ of: written, result: result as JobResults[K] }),
        (error: unknown) => {
          if (!open || (error instanceof KinetikonError && error.code === 'work.cancelled')) return;
          // Given up: what was found last stays.
          setDone((before) => ({ of: written, result: before?.result ?? null }));
          studio.messages.report(error);
        },
      );
    };
    const timer = setTimeout(ask, studio.pictures.has(written) ? 0 : WAIT_MS);
    return () => {
      open = false;
      clearTimeout(timer);
      leave();
    };
  }, [studio, written]);
  return { result: done?.result ?? null, busy: task !== null && done?.of !== written };
}
