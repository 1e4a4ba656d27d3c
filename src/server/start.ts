import { KinetikonError, messageOf } from '@/core/errors';
import { closeDatabase, database } from './db/client';
import type { Database } from './db/database';
import { installDemo } from './demo';
import { log } from './log';
import { queueOf } from './renders/renderQueue';
import { RenderWorker } from './renders/renderWorker';
import { sweepAssets, UNUSED_DAYS } from './repositories/assets';
import { sweepUploads } from './repositories/blobs';
import { sweepRenders } from './repositories/renders';
import { foldAllChanges } from './repositories/sessionDocuments';
import { summarize } from './repositories/sessions';
import { stopping } from './stopping';

const SWEEP_MS = 10 * 60 * 1000;

/** Runs renders where no worker of another process does. */
let worker: RenderWorker | null = null;

/** Runs once at start: opens the data, sweeps what is left over, installs the demo if asked. */
export async function start(): Promise<void> {
  stopping.kinetikonStop = stop;
  try {
    const db = await database();
    await sweep(db);
    setInterval(() => {
      sweep(db).catch((error: unknown) => log('sweep.failed', { message: messageOf(error) }));
    }, SWEEP_MS).unref();
    await summarize(db);
    if (process.env.KINETIKON_DEMO === '1') await installDemo(db);
    if (!queueOf(db).isShared) {
      worker = new RenderWorker(db, 1);
      await worker.start();
    }
  } catch (error) {
    const next = error instanceof KinetikonError ? error.next : undefined;
    log('start.failed', { message: messageOf(error), next });
    process.exit(1);
  }
}

/** Removes what broken uploads left, and renders that ended a while ago. */
async function sweep(db: Database): Promise<void> {
  const uploads = await sweepUploads(db);
  if (uploads > 0) log('uploads.swept', { uploads });
  const sounds = await sweepAssets(db, UNUSED_DAYS, 'temporary');
  if (sounds.length > 0) log('sounds.swept', { sounds: sounds.length });
  const renders = await sweepRenders(db);
  if (renders > 0) log('renders.swept', { renders });
}

/** Gives back what is under way, and closes the data. */
async function stop(): Promise<void> {
  await worker?.stop();
  await foldAllChanges(await database());
  await closeDatabase();
  log('server.stopped');
}
