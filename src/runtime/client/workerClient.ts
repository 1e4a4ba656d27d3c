import { cancelled, KinetikonError, messageOf } from '@/core/errors';
import type { Done, Task } from '@/core/jobs/kinds';
import { receivedError } from '@/core/protocol/sentError';
import type { FromWorker, ToWorker } from '@/core/protocol/worker';
import { compiledKernels } from './kernels';

interface Pending {
  readonly resolve: (result: never) => void;
  readonly reject: (error: Error) => void;
  readonly onProgress: ((done: number) => void) | undefined;
  readonly onBegun: ((left: Float32Array, right: Float32Array) => void) | undefined;
}

export interface TaskOptions {
  readonly onProgress?: (done: number) => void;
  /** A sound is there and being filled from its beginning on. */
  readonly onBegun?: (left: Float32Array, right: Float32Array) => void;
  readonly signal?: AbortSignal;
}

/** A worker for decoding, pictures and bounces: numbered requests, progress, cancellation; a dead worker is replaced. */
export class WorkerClient {
  private worker: Worker | null = null;
  private readonly pending = new Map<number, Pending>();
  private nextId = 1;

  constructor(
    private readonly create: () => Worker = () => new Worker('/audio/worker.js', { type: 'module' }),
    private readonly kernels: () => Promise<WebAssembly.Module> = compiledKernels,
  ) {}

  /** @throws KinetikonError as the task does, work.cancelled, or engine.stopped when the worker died */
  run<T extends Task>(task: T, options: TaskOptions = {}): Promise<Done<T['kind'], Blob>> {
    const worker = (this.worker ??= this.start());
    const id = this.nextId++;
    const { signal, onProgress, onBegun } = options;
    return new Promise<Done<T['kind'], Blob>>((resolve, reject) => {
      const cancel = () => worker.postMessage({ id, cancel: true } satisfies ToWorker);
      const settle = () => {
        signal?.removeEventListener('abort', cancel);
        this.pending.delete(id);
      };
      this.pending.set(id, {
        resolve: (result) => (settle(), resolve(result)),
        reject: (error) => (settle(), reject(error)),
        onProgress,
        onBegun,
      });
      worker.postMessage({ id, task } satisfies ToWorker);
      if (signal?.aborted) cancel();
      else signal?.addEventListener('abort', cancel);
    });
  }

  /** Loads the worker ahead of its first task. */
  warmUp(): void {
    this.worker ??= this.start();
  }

  /** Tasks under way. */
  get load(): number {
    return this.pending.size;
  }

  private start(): Worker {
    const worker = this.create();
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => this.receive(data);
    worker.onerror = (event) => this.died(event.message || 'the worker could not be loaded');
    this.kernels().then(
      (kernels) => worker.postMessage({ kernels } satisfies ToWorker),
      (error: unknown) => worker === this.worker && this.died(messageOf(error).replace(/\.$/, '')),
    );
    return worker;
  }

  private receive(message: FromWorker): void {
    const pending = this.pending.get(message.id);
    if (!pending) return;
    switch (message.kind) {
      case 'progress':
        return pending.onProgress?.(message.done);
      case 'begun':
        return pending.onBegun?.(message.left, message.right);
      case 'result':
        return pending.resolve((message.file ? { ...message.result, file: message.file } : message.result) as never);
      case 'error':
        return pending.reject(receivedError(message));
    }
  }

  private died(reason: string): void {
    this.worker?.terminate();
    this.worker = null;
    this.rejectAll(
      new KinetikonError('engine.stopped', `Background work stopped: ${reason}.`, {
        kept: 'The session is untouched.',
        next: 'Try again.',
      }),
    );
  }

  private rejectAll(error: KinetikonError): void {
    for (const { reject } of [...this.pending.values()]) reject(error);
  }

  /** Ends the worker; its tasks are cancelled. */
  close(): void {
    this.worker?.terminate();
    this.worker = null;
    this.rejectAll(cancelled());
  }
}

/**
 * Runs a task in a worker of its own, since some tasks cannot be interrupted: when the signal is aborted, the worker is
 * ended with its task.
 * @throws KinetikonError those of `WorkerClient.run`
 */
export async function runAlone<T extends Task>(
  task: T,
  { signal, onProgress }: Required<Pick<TaskOptions, 'signal' | 'onProgress'>>,
): Promise<Done<T['kind'], Blob>> {
  const worker = new WorkerClient();
  const end = () => worker.close();
  signal.addEventListener('abort', end);
  try {
    return await worker.run(task, { onProgress });
  } finally {
    signal.removeEventListener('abort', end);
    end();
  }
}
