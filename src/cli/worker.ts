import { availableParallelism } from 'node:os';
import { openDatabase } from '@/server/db/client';
import { RenderWorker } from '@/server/renders/renderWorker';
import { numberBetween, one, parseArguments, usage } from './arguments';
import { DATA, homeOf } from './studioData';
import type { Terminal } from './terminal';

/** `worker`: runs renders of a studio's queue until it is ended. */
export async function runWorker(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, { '--database': DATA['--database'], '--jobs': true });
  if (options.positional.length > 0) throw usage(`worker takes no "${options.positional[0]}".`);
  const home = homeOf(options);
  if (!('url' in home))
    throw usage('worker needs --database URL or DATABASE_URL: a data folder has a worker of its own.');
  const jobs = one(options, '--jobs');
  const count = jobs === undefined ? availableParallelism() : numberBetween('--jobs', jobs, 1, 256, 'renders at once');
  const { db, close } = await openDatabase(home);
  const worker = new RenderWorker(db, Math.round(count));
  const ended = new Promise<void>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve());
  });
  await worker.start();
  await ended;
  terminal.note('what is under way goes back to the queue');
  await worker.stop();
  await close();
}
