import { runJob } from '@/core/jobs/jobs';
import type { Done, JobStep, Task } from '@/core/jobs/kinds';
import { BytesSink } from '@/core/formats/fileSink';
import { inMemory } from '@/core/jobs/place';

/** Does a job that makes a sound file, and gives the bytes of that beside its result. */
export async function madeFile<T extends Task>(
  task: T,
  onStep?: (step: JobStep) => void,
): Promise<Done<T['kind'], never> & { readonly bytes: Uint8Array }> {
  const sink = new BytesSink();
  const result = await runJob(task, onStep, inMemory(sink));
  return { ...result, bytes: sink.bytes } as never;
}
