import { createHash, randomUUID } from 'node:crypto';
import {
  linkSync,
  mkdirSync,
  readFileSync,
  readlinkSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { KinetikonError } from '@/core/errors';
import { log } from '../log';

interface Owner {
  readonly pid: number;
  /** Start time of that process, so that a reused process id is not taken for it. */
  readonly started: string;
  /** Unique to this lock; who can read the file can show it to the server. */
  readonly token: string;
  /** Address of the server that has the folder; null for other processes. */
  readonly url: string | null;
  /** Machine, its start and its container: process ids mean something within the same ones alone. */
  readonly home?: string;
}

/** The file of an owner is touched so often ... */
const RENEW_MS = 5000;
/** ... and an owner elsewhere whose file has not been for so long has ended. */
const GONE_MS = 30_000;

function readText(path: string): string {
  try {
    return readFileSync(path, 'utf8').trim();
  } catch {
    return '';
  }
}

/** Host, boot and process namespace of this process. */
function homeOfProcess(): string {
  let namespace = '';
  try {
    namespace = readlinkSync('/proc/self/ns/pid');
  } catch {
    // Not on Linux: host and boot have to do.
  }
  return [hostname(), readText('/proc/sys/kernel/random/boot_id'), namespace].join(' ');
}

const HOME = homeOfProcess();

/** Start time of a process in clock ticks since boot (field 22 of /proc/PID/stat); empty when it does not run. */
function startOf(pid: number): string {
  const stat = readText(`/proc/${pid}/stat`);
  return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
}

/** @param path file of the owner, which tells of owners elsewhere by the time it was touched */
function isAlive(owner: Owner, path: string): boolean {
  if (owner.home !== undefined && owner.home !== HOME) return Date.now() - touchedAt(path) < GONE_MS;
  try {
    process.kill(owner.pid, 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ESRCH') return false;
  }
  return owner.started === '' || startOf(owner.pid) === owner.started;
}

function touchedAt(path: string): number {
  try {
    return statSync(path).mtimeMs;
  } catch {
    return 0;
  }
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
 * @param onReplaced called when another process has taken the folder, as after this machine was asleep: nothing may be
 * written any more
 * @returns a function that gives the folder back
 * @throws KinetikonError database.locked when another process has it
 */
export function lockFolder(folder: string, onReplaced: () => void = endReplaced): () => void {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'owner.json');
  const heirPath = (text: string) =>
    join(folder, `heir-${createHash('sha256').update(text).digest('hex').slice(0, 16)}.json`);
  const url = process.env.KINETIKON_URL ?? null;
  const mine: Owner = { pid: process.pid, started: startOf(process.pid), token: randomUUID(), url, home: HOME };
  const text = JSON.stringify(mine);
  const draft = join(folder, `${mine.token}.part`);
  writeFileSync(draft, text, { mode: 0o600 });
  try {
    while (!linked(draft, path)) {
      const current = readIfThere(path);
      if (current === null) continue;
      const inherited = heirPath(lastOfLine(current, path, folder, heirPath));
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
  const renewal = setInterval(() => {
    if (readIfThere(path) === text) {
      utimesSync(path, new Date(), new Date());
      return;
    }
    clearInterval(renewal);
    onReplaced();
  }, RENEW_MS).unref();
  return () => {
    clearInterval(renewal);
    if (readIfThere(path) === text) rmSync(path, { force: true });
  };
}

function endReplaced(): void {
  log('folder.replaced', { message: 'Another process has taken the data folder.' });
  process.exit(1);
}

/** The living owner of a folder, if there is one. */
function ownerOf(folder: string): Owner | null {
  const path = join(folder, 'owner.json');
  const text = readIfThere(path);
  const owner = text === null ? null : ownerIn(text);
  return owner && isAlive(owner, path) ? owner : null;
}

/** Address of the server that has a folder, and the token that it knows; null when no server has it. */
export function serverOf(folder: string): { readonly url: string; readonly token: string } | null {
  const owner = ownerOf(folder);
  return owner?.url ? { url: owner.url, token: owner.token } : null;
}

/** True when this process has a folder, under a token. */
export function ownsFolder(folder: string, token: string): boolean {
  const owner = ownerOf(folder);
  return owner?.token === token && owner.pid === process.pid;
}

/**
 * The owner or heir that nobody has inherited from yet.
 * @throws KinetikonError database.locked when the owner or an heir runs
 */
function lastOfLine(first: string, path: string, folder: string, heirPath: (text: string) => string): string {
  for (let [text, file] = [first, path]; ;) {
    const owner = ownerIn(text);
    if (owner && isAlive(owner, file)) {
      throw new KinetikonError('database.locked', `The data in ${folder} is in use by process ${owner.pid}.`, {
        kept: 'Nothing was touched.',
        next: 'Use that running Kinetikon, stop it first, or set KINETIKON_DATA to another folder.',
      });
    }
    const next = heirPath(text);
    const heir = readIfThere(next);
    if (heir === null) return text;
    [text, file] = [heir, next];
  }
}
