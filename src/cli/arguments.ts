import { KinetikonError } from '@/core/errors';

export const USAGE = `Usage:
  kinetikon effects [--json]
  kinetikon process IN -o OUT --effect ID [--set NAME=VALUE]... [--preset FILE] [--effect ID ...]
            [--key KEYFILE] [--notes FILE.mid] [--tempo BPM] [--tail SECONDS] [--rate HZ]
            [--format 16|24|32f|flac] [--normalise]
  kinetikon play NOTES.mid -o OUT --effect synth [--set NAME=VALUE]... (and what process takes)
  kinetikon impulse KIND -o OUT [--set NAME=VALUE]... [--seed N] [--rate HZ]
  kinetikon impulse --list
  kinetikon swell IN -o OUT --land SECONDS [--source SECONDS] [--length SECONDS] [--fade-in SECONDS]
            [--gap SECONDS] [--level DB] [--over] [--effect ID [--set NAME=VALUE]...]...
            [--format 16|24|32f|flac] [--normalise]
  kinetikon measure IN [--json] [--impulse]
  kinetikon measure IN --pitch
  kinetikon bounce SESSION -o OUT [--data FOLDER|--database URL] [--from BEAT] [--to BEAT] [--rate HZ]
            [--format 16|24|32f|flac] [--json]
  kinetikon batch FOLDER --chain PRESET -o FOLDER [--workers N] [--resume] [--format 16|24|32f|flac]
            [--database URL]
  kinetikon worker [--jobs N] [--database URL]
  kinetikon data move --to FOLDER|URL [--data FOLDER|--database URL] [--blobs HOME] [--to-blobs HOME]

Several --effect make a chain in that order; --set and --preset belong to the --effect before them;
--key is the sound that steers every keyed effect of the chain;
--notes are for the effects that play any, and tell the tempo where --tempo does not;
--normalise brings the highest true peak to -1 dBTP;
--impulse measures decay, clarity and echo density of an impulse response as well;
--pitch writes the course of the pitch as CSV;
bounce takes the data folder of a running server through that server;
batch leaves files alone that cannot be read, and with --resume those that are done; with --database the queue's
workers render them; levels.csv has the levels before and after;
worker runs renders of a studio's queue until it is ended;
data move copies all sessions, sounds and presets into another place; a move that broke off goes on.`;

export const usage = (message: string) => new KinetikonError('usage', message, { next: USAGE });

export interface Options {
  readonly positional: readonly string[];
  /** Options in the order given; the same one may come more than once. */
  readonly named: readonly (readonly [name: string, value: string])[];
}

/**
 * Splits arguments by a table of options.
 * @param table option to whether it takes a value
 * @throws KinetikonError usage
 */
export function parseArguments(args: readonly string[], table: Readonly<Record<string, boolean>>): Options {
  const positional: string[] = [];
  const named: [string, string][] = [];
  for (let i = 0; i < args.length; i++) {
    const word = args[i]!;
    if (!word.startsWith('-') || word === '-') {
      positional.push(word);
      continue;
    }
    const [name, attached] = word.startsWith('--') && word.includes('=') ? splitOnce(word) : [word, undefined];
    const takesValue = table[name];
    if (takesValue === undefined)
      throw usage(`There is no option ${name}; there are ${Object.keys(table).join(', ')}.`);
    if (!takesValue) {
      if (attached !== undefined) throw usage(`${name} takes no value, not "${attached}".`);
      named.push([name, '']);
      continue;
    }
    const value = attached ?? args[++i];
    if (value === undefined) throw usage(`${name} needs a value.`);
    named.push([name, value]);
  }
  return { positional, named };
}

/** The last value that an option was given. */
export const one = (options: Options, name: string): string | undefined =>
  options.named.findLast(([given]) => given === name)?.[1];

/** A text split at its first `=`. */
export function splitOnce(text: string): [string, string] {
  const at = text.indexOf('=');
  return [text.slice(0, at), text.slice(at + 1)];
}

/**
 * A number within limits.
 * @throws KinetikonError usage, naming the option, its range and what was given
 */
export function numberBetween(name: string, text: string, min: number, max: number, unit: string): number {
  const value = Number(text);
  if (text.trim() === '' || !Number.isFinite(value) || value < min || value > max) {
    throw usage(`${name} takes ${min} to ${max} ${unit}, not "${text}".`);
  }
  return value;
}
