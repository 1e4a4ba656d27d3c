/** Reads one sound file part by part, beside the server's own thread. */
import '@/core/wasm/embedded';
import { parentPort, workerData } from 'node:worker_threads';
import { KinetikonError } from '@/core/errors';
import { SoundScanner } from '@/core/formats/soundScanner';
import type { CheckAnswer, CheckRequest } from './checkMessages';

const scanner = new SoundScanner(workerData as string);
const answer = (message: CheckAnswer) => parentPort!.postMessage(message);

parentPort!.on('message', (request: CheckRequest) => {
  const work = async (): Promise<CheckAnswer> => {
    if ('end' in request) return { kind: 'done', facts: await scanner.end() };
    await scanner.push(request.part);
    return { kind: 'taken' };
  };
  work().then(answer, (error: unknown) => {
    if (!(error instanceof KinetikonError)) throw error;
    const { code, message, kept, next } = error;
    answer({ kind: 'refused', code, message, kept, next });
  });
});
