import type { JobResults, Task } from '@/core/jobs/kinds';
import { useStudio } from '../../session/StudioContext';
import { useWorkState, type WorkState } from '../../session/useWork';

const WAIT_MS = 40;

type PictureKind = 'echogram' | 'picture' | 'room';
type PictureTask = Extract<Task, { kind: PictureKind }>;

/** The result of a task of the worker, done anew shortly after the task changes; the last result stays until then. */
export function useTask<K extends PictureKind>(task: Extract<Task, { kind: K }> | null): JobResults[K] | null {
  return useTaskState(task).result;
}

/**
 * The same, with whether it is up to date. A task that is shown in several places is done once.
 * @param task plain data, or null for nothing
 */
export function useTaskState<K extends PictureKind>(task: Extract<Task, { kind: K }> | null): WorkState<JobResults[K]> {
  const studio = useStudio();
  const key = task && JSON.stringify(task);
  const start = async (signal: AbortSignal) => {
    // Sounds for playing come first.
    await studio.sounds.firstSounds(signal);
    const asked = task as PictureTask;
    const sounds = await studio.sounds.samplesFor(asked.inserts, signal);
    return studio.worker.run({ ...asked, sounds } as PictureTask, { signal });
  };
  return useWorkState(
    key,
    (signal) => studio.pictures.ask(key!, start, signal) as Promise<JobResults[K]>,
    (key) => (studio.pictures.has(key) ? 0 : WAIT_MS),
  );
}
