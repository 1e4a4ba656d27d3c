import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { KinetikonError } from '@/core/errors';
import type { SoundFacts } from '@/core/formats/soundScanner';
import { ROOT } from '../root';
import type { CheckAnswer, CheckRequest } from './checkMessages';

/**
 * Checks a sound file as it comes, in a thread of its own: a part is taken before the next is asked for, so that no more
 * than one of them waits.
 */
export class SoundCheck {
  private readonly worker: Worker;

  /** @param name used in errors */
  constructor(name: string) {
    this.worker = new Worker(join(/* turbopackIgnore: true */ ROOT, 'dist', 'checkThread.cjs'), {
      workerData: name,
    });
  }

  private ask(request: CheckRequest): Promise<CheckAnswer> {
    return new Promise((resolve, reject) => {
      const ended = (code: number) => reject(new Error(`the thread that reads sounds ended with ${code}`));
      this.worker.once('error', reject);
      this.worker.once('exit', ended);
      this.worker.once('message', (answer: CheckAnswer) => {
        this.worker.off('error', reject);
        this.worker.off('exit', ended);
        resolve(answer);
      });
      this.worker.postMessage(request);
    });
  }

  private async asked(request: CheckRequest): Promise<CheckAnswer> {
    const answer = await this.ask(request);
    if (answer.kind !== 'refused') return answer;
    const { code, message, kept, next } = answer;
    throw new KinetikonError(code, message, { kept, next });
  }

  /** @throws KinetikonError those of `readSound`, as soon as they show */
  async push(part: Uint8Array): Promise<void> {
    await this.asked({ part });
  }

  /** @throws KinetikonError those of `readSound` */
  async end(): Promise<SoundFacts> {
    const answer = await this.asked({ end: true });
    if (answer.kind !== 'done') throw new Error('the thread that reads sounds gave no result');
    return answer.facts;
  }

  close(): void {
    void this.worker.terminate();
  }
}
