/** Runs one render after the other, beside the thread that talks to the database. */
import '@/core/wasm/embedded';
import { parentPort } from 'node:worker_threads';
import { KinetikonError, messageOf } from '@/core/errors';
import { DecodedSounds } from './decodedSounds';
import type { SoundFile, ThreadAnswer, ThreadRequest } from './renderMessages';
import { runRequest } from './runRequest';

const decoded = new DecodedSounds();

const answer = (message: ThreadAnswer) => parentPort!.postMessage(message);

let receive: (file: SoundFile) => void = () => {};

const fileOf = (assetId: string) =>
  new Promise<SoundFile>((resolve) => {
    receive = resolve;
    answer({ kind: 'needs', assetId });
  });

parentPort!.on('message', (message: ThreadRequest) => {
  if (message.kind === 'file') return receive(message.file);
  runRequest(message.request, fileOf, (done) => answer({ kind: 'progress', done }), decoded).then(
    (rendered) => answer({ kind: 'done', rendered }),
    (error: unknown) => {
      const { code, message, kept, next } =
        error instanceof KinetikonError ? error : new KinetikonError('engine.stopped', messageOf(error));
      answer({ kind: 'failed', code, message, kept, next });
    },
  );
});
