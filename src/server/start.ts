import { KinetikonError, messageOf } from '@/core/errors';
import { closeDatabase, database } from './db/client';
import { installDemo } from './demo';
import { log } from './log';
import { sweepUploads } from './repositories/assets';
import { foldAllChanges } from './repositories/sessionDocuments';
import { summarize } from './repositories/sessions';

/** Runs once at start: opens the data, sweeps broken uploads, installs the demo if asked. */
export async function start(): Promise<void> {
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void stop());
  try {
    const db = await database();
    const swept = await sweepUploads(db);
    await summarize(db);
    if (swept > 0) log('uploads.swept', { pieces: swept });
    if (process.env.KINETIKON_DEMO === '1') await installDemo(db);
  } catch (error) {
    const next = error instanceof KinetikonError ? error.next : undefined;
    log('start.failed', { message: messageOf(error), next });
    process.exit(1);
  }
}

async function stop(): Promise<void> {
  await foldAllChanges(await database());
  await closeDatabase();
  log('server.stopped');
  process.exit(0);
}
