import { createHash, randomUUID } from 'node:crypto';
import { linkSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { KinetikonError } from '@/core/errors';

interface Owner {
  readonly pid: number;
  /** Start time of that process, so that a reused process id is not taken for it. */
  readonly started: string;
  /** Unique to this lock. */
  readonly token: string;
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

/** A file's text, or null when there is no such file. */
function readIfThere(path: string): string | null {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}

function ownerIn(text: string): Owner | null {
  try {
    return JSON.parse(text) as Owner;
  } catch {
    return null;
  }
}

/** Gives a file a second name, unless that is taken; a file appears under it whole or not at all. */
function linked(from: string, to: string): boolean {
  try {
    linkSync(from, to);
    return true;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return false;
    throw error;
  }
}

/**
 * Takes a data folder for this process. The owner stands in `owner.json`. Of an owner that no longer runs there is one
 * heir: who first gives its own file the name that belongs to that very taking. An heir that has ended too is inherited
 * from in the same way. So of any number of processes that start together one gets the folder.
 * @returns a function that gives the folder back
 * @throws KinetikonError database.locked when another process has it
 */
export function lockFolder(folder: string): () => void {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'owner.json');
  const heirPath = (text: string) =>
    join(folder, `heir-${createHash('sha256').update(text).digest('hex').slice(0, 16)}.json`);
  const mine: Owner = { pid: process.pid, started: startOf(process.pid), token: randomUUID() };
  const text = JSON.stringify(mine);
  const draft = join(folder, `${mine.token}.part`);
  writeFileSync(draft, text);
  try {
    while (!linked(draft, path)) {
      const current = readIfThere(path);
      if (current === null) continue;
      const inherited = heirPath(lastOfLine(current, folder, heirPath));
      if (!linked(draft, inherited)) continue;
      // The owner that was to be inherited from may have been replaced and its heir's file swept just before.
      if (readIfThere(path) !== current) {
        rmSync(inherited, { force: true });
        continue;
      }
      renameSync(draft, path);
      for (let old = current; ;) {
        const next = readIfThere(heirPath(old));
        rmSync(heirPath(old), { force: true });
        if (next === null || next === text) break;
        old = next;
      }
      break;
    }
  } finally {
    rmSync(draft, { force: true });
  }
  return () => {
    if (readIfThere(path) === text) rmSync(path, { force: true });
  };
}

/**
 * The owner or heir that nobody has inherited from yet.
 * @throws KinetikonError database.locked when the owner or an heir runs
 */
function lastOfLine(first: string, folder: string, heirPath: (text: string) => string): string {
  for (let text = first; ;) {
    const owner = ownerIn(text);
    if (owner && isAlive(owner)) {
      throw new KinetikonError('database.locked', `The data in ${folder} is in use by process ${owner.pid}.`, {
        kept: 'Nothing was touched.',
        next: 'Use that running Kinetikon, stop it first, or set KINETIKON_DATA to another folder.',
      });
    }
    const heir = readIfThere(heirPath(text));
    if (heir === null) return text;
    text = heir;
  }
}
