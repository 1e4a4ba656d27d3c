import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { cancelled, KinetikonError } from '@/core/errors';
import { receivedError, sentError, type SentError } from '@/core/protocol/sentError';
import type { RenderRequest } from '@/core/session/renderRequests';
import { ROOT } from '../root';
import type { FileOf, Rendered, SoundFile, ThreadAnswer, ThreadRequest } from './renderMessages';

export interface ThreadOptions {
  /** Path of the sound file that comes out; nothing is left there of a render that failed. */
  readonly output: string;
  readonly signal: AbortSignal;
  /** @param done from 0 to 1 */
  readonly onProgress: (done: number) => void;
}

/** What a thread fails with that nobody foresaw counts as its end. */
const failure = (error: SentError): Error =>
  error.code === 'unexpected' ? new KinetikonError('engine.stopped', error.message) : receivedError(error);

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
  async run(request: RenderRequest, fileOf: FileOf, options: ThreadOptions): Promise<Rendered> {
    try {
      return await this.begin(request, fileOf, options);
    } catch (error) {
      await rm(options.output, { force: true });
      throw error;
    }
  }

  private begin(
    request: RenderRequest,
    fileOf: FileOf,
    { signal, onProgress, output }: ThreadOptions,
  ): Promise<Rendered> {
    if (signal.aborted) return Promise.reject(cancelled());
    const worker = (this.worker ??= this.start());
    return new Promise<Rendered>((resolve, reject) => {
      const tell = (message: ThreadRequest) => worker.postMessage(message);
      const files = new Map<string, SoundFile>();
      const lost = (ask: number) => (error: unknown) => tell({ kind: 'lost', ask, error: sentError(error) });
      const needs = async (ask: number, assetId: string) => {
        const file = await fileOf(assetId);
        files.set(assetId, file);
        tell({ kind: 'file', ask, name: file.name, size: file.size });
      };
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
            needs(message.ask, message.assetId).catch(lost(message.ask));
            return;
          case 'reads': {
            const { ask, assetId, from, to } = message;
            files
              .get(assetId)!
              .read(from, to)
              .then((bytes) => tell({ kind: 'bytes', ask, bytes }), lost(ask));
            return;
          }
          case 'done':
            settle();
            return resolve(message.rendered);
          case 'failed':
            settle();
            return reject(failure(message.error));
        }
      };
      signal.addEventListener('abort', giveUp);
      worker.on('error', died).on('exit', died).on('message', receive);
      tell({ kind: 'render', request, output });
    });
  }

  close(): void {
    void this.worker?.terminate();
    this.worker = null;
  }
}
