import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { KinetikonError } from '@/core/errors';

interface Owner {
  readonly pid: number;
  /** When that process began, so that a reused process number is not taken for it. */
  readonly started: string;
}

/** Start time of a process in clock ticks since boot (field 22 of /proc/PID/stat); empty when it does not run. */
function startOf(pid: number): string {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}

function isAlive(owner: Owner): boolean {
  try {
    process.kill(owner.pid, 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ESRCH') return false;
  }
  return owner.started === '' || startOf(owner.pid) === owner.started;
}

function readOwner(path: string): Owner | null {
  try {
    return JSON.parse(readFileSync(path, 'utf8')) as Owner;
  } catch {
    return null;
  }
}

/**
 * Takes a data folder for this process; an owner that no longer runs is replaced.
 * @returns a function that gives the folder back
 * @throws KinetikonError database.locked when another process has it
 */
export function lockFolder(folder: string): () => void {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'owner.json');
  const mine: Owner = { pid: process.pid, started: startOf(process.pid) };
  for (let attempt = 0; ; attempt++) {
    try {
      writeFileSync(path, JSON.stringify(mine), { flag: 'wx' });
      break;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const owner = readOwner(path);
      if (attempt > 3 || (owner && owner.pid !== process.pid && isAlive(owner))) {
        throw new KinetikonError(
          'database.locked',
          `The data in ${folder} is in use by process ${owner?.pid ?? 'unknown'}.`,
          {
            kept: 'Nothing was touched.',
            next: 'Use that running Kinetikon, stop it first, or set KINETIKON_DATA to another folder.',
            cause: error,
          },
        );
      }
      rmSync(path, { force: true });
    }
  }
  return () => {
    if (readOwner(path)?.pid === process.pid) rmSync(path, { force: true });
  };
}
