/** Runs one render after the other, beside the thread that talks to the database. */
import '@/core/wasm/embedded';
import { parentPort } from 'node:worker_threads';
import { receivedError, sentError } from '@/core/protocol/sentError';
import { DecodedSounds } from './decodedSounds';
import type { FileOf, ThreadAnswer, ThreadRequest } from './renderMessages';
import { runRequest } from './runRequest';

const decoded = new DecodedSounds();

const answer = (message: ThreadAnswer) => parentPort!.postMessage(message);

type Asked = Extract<ThreadRequest, { readonly ask: number }>;

/** What was asked of the other thread and has not been answered. */
const asked = new Map<number, (given: Asked) => void>();
let asks = 0;

/** Asks the other thread, and takes its answer of a kind. */
function ask<K extends 'file' | 'bytes'>(
  kind: K,
  question: (ask: number) => ThreadAnswer,
): Promise<Extract<Asked, { readonly kind: K }>> {
  const number = ++asks;
  return new Promise((resolve, reject) => {
    asked.set(number, (given) => {
      if (given.kind === 'lost') reject(receivedError(given.error));
      else if (given.kind === kind) resolve(given as Extract<Asked, { readonly kind: K }>);
    });
    answer(question(number));
  });
}

const fileOf: FileOf = async (assetId) => {
  const { name, size } = await ask('file', (number) => ({ kind: 'needs', ask: number, assetId }));
  return {
    name,
    size,
    read: async (from, to) =>
      (await ask('bytes', (number) => ({ kind: 'reads', ask: number, assetId, from, to }))).bytes,
  };
};

parentPort!.on('message', (message: ThreadRequest) => {
  if (message.kind !== 'render') {
    asked.get(message.ask)?.(message);
    asked.delete(message.ask);
    return;
  }
  const { request, output } = message;
  const onProgress = (done: number) => answer({ kind: 'progress', done });
  runRequest(request, fileOf, output, { onProgress, decoded }).then(
    (rendered) => answer({ kind: 'done', rendered }),
    (error: unknown) => answer({ kind: 'failed', error: sentError(error) }),
  );
});
