import { cancelled } from '@/core/errors';
import { runJob } from '@/core/jobs/jobs';
import type { JobResults, JobStep, Task } from '@/core/jobs/kinds';
import { sentError } from '@/core/protocol/sentError';
import type { FromWorker, ToWorker } from '@/core/protocol/worker';
import { provideWasm } from '@/core/wasm/module';
import { BlobSink } from './blobSink';
import { openForWork } from './longSounds';

/** Requests given up while they run; work looks here between its steps. */
const givenUp = new Set<number>();

const send = (message: FromWorker, transfer: Transferable[] = []) => self.postMessage(message, { transfer });

/** Lets messages in, such as a cancellation. */
const breathe = () => new Promise<void>((resolve) => setTimeout(resolve, 0));

function stopIfCancelled(id: number): void {
  if (givenUp.has(id)) throw cancelled();
}

/** Sounds are decoded one after the other, so that the first is there first. */
let decoding: Promise<unknown> = Promise.resolve();

async function run(id: number, task: Task): Promise<void> {
  const onStep = async (step: JobStep) => {
    if (typeof step === 'number') send({ id, kind: 'progress', done: step });
    else send({ id, kind: 'begun', ...step });
    await breathe();
    stopIfCancelled(id);
  };
  const sink = new BlobSink();
  const result = await runJob(task, onStep, { open: openForWork, sink });
  send({ id, kind: 'result', result, file: sink.file }, filesIn(result));
}

/** Small files in a result, which are handed over instead of copied. */
function filesIn(result: JobResults[keyof JobResults]): Transferable[] {
  return 'bytes' in result ? [result.bytes.buffer as ArrayBuffer] : [];
}

let takeKernels: () => void;
/** Tasks that come before the kernels wait for them. */
const hasKernels = new Promise<void>((resolve) => {
  takeKernels = resolve;
});

self.onmessage = async ({ data }: MessageEvent<ToWorker>) => {
  if ('kernels' in data) {
    provideWasm(() => data.kernels);
    takeKernels();
    return;
  }
  if ('cancel' in data) {
    givenUp.add(data.id);
    return;
  }
  try {
    await hasKernels;
    stopIfCancelled(data.id);
    if (data.task.kind === 'decode') {
      const mine = decoding.then(() => run(data.id, data.task));
      decoding = mine.catch(() => undefined);
      await mine;
    } else {
      await run(data.id, data.task);
    }
  } catch (error) {
    send({ id: data.id, kind: 'error', ...sentError(error) });
  } finally {
    givenUp.delete(data.id);
  }
};
