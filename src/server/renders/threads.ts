import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { cancelled, KinetikonError } from '@/core/errors';
import type { RenderRequest } from '@/core/session/renderRequests';
import { ROOT } from '../root';
import type { FileOf, Rendered, ThreadAnswer, ThreadRequest } from './renderMessages';

export interface ThreadOptions {
  readonly signal: AbortSignal;
  /** @param done from 0 to 1 */
  readonly onProgress: (done: number) => void;
}

/** A thread that renders one request at a time. It is ended when a render is given up, and begun anew for the next. */
export class RenderThread {
  private worker: Worker | null = null;

  private start(): Worker {
    return new Worker(join(/* turbopackIgnore: true */ ROOT, 'dist', 'renderThread.cjs'));
  }

  /**
   * @param fileOf asked for the sounds that the thread has not decoded before
   * @throws KinetikonError as `runRequest` does, work.cancelled, engine.stopped when the thread died
   */
  run(request: RenderRequest, fileOf: FileOf, { signal, onProgress }: ThreadOptions): Promise<Rendered> {
    if (signal.aborted) return Promise.reject(cancelled());
    const worker = (this.worker ??= this.start());
    return new Promise<Rendered>((resolve, reject) => {
      const tell = (message: ThreadRequest) => worker.postMessage(message);
      const settle = () => {
        signal.removeEventListener('abort', giveUp);
        worker.off('error', died).off('exit', died).off('message', receive);
      };
      const drop = (error: Error) => {
        settle();
        this.close();
        reject(error);
      };
      const giveUp = () => drop(cancelled());
      const died = () => drop(new KinetikonError('engine.stopped', 'The thread of the render ended.'));
      const receive = (message: ThreadAnswer) => {
        switch (message.kind) {
          case 'progress':
            return onProgress(message.done);
          case 'needs':
            fileOf(message.assetId).then((file) => tell({ kind: 'file', file }), drop);
            return;
          case 'done':
            settle();
            return resolve(message.rendered);
          case 'failed': {
            settle();
            const { code, kept, next } = message;
            return reject(new KinetikonError(code, message.message, { kept, next }));
          }
        }
      };
      signal.addEventListener('abort', giveUp);
      worker.on('error', died).on('exit', died).on('message', receive);
      tell({ kind: 'render', request });
    });
  }

  close(): void {
    void this.worker?.terminate();
    this.worker = null;
  }
}
