import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { appendFile, mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, join, relative, resolve, sep } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { KinetikonError, messageOf } from '@/core/errors';
import { parsePreset } from '@/core/formats/preset';
import { containerOfName, extensionOf, outputFormat, type OutputFormatId } from '@/core/formats/soundFormats';
import { SoundScanner } from '@/core/formats/soundScanner';
import type { BounceFacts } from '@/core/protocol/renders';
import { renderWork, type ChainEffect, type RenderRequest } from '@/core/session/renderRequests';
import type { Asset } from '@/core/session/records/clips';
import { openDatabase } from '@/server/db/client';
import type { Database } from '@/server/db/database';
import { diskFile } from '@/server/renders/diskFiles';
import type { Rendered } from '@/server/renders/renderMessages';
import { RenderThread } from '@/server/renders/threads';
import { storeAsset } from '@/server/repositories/assets';
import { findRender, orderRender, renderResult } from '@/server/repositories/renders';
import { numberBetween, one, parseArguments, usage } from './arguments';
import { madeWhole, readTextFile, writeWhole } from './files';
import { outputOf } from './output';
import type { Terminal } from './terminal';

const TABLE = 'levels.csv';
const HEADER = 'file,state,seconds,LUFS before,LUFS after,true peak before,true peak after,reason';
/** Sounds of one batch that are in the queue of a studio at once. */
const IN_QUEUE = 16;
const LOOK_MS = 500;
/** Bytes of a file that are read at a time. */
const READ_BYTES = 1024 * 1024;

interface Batch {
  readonly source: string;
  readonly target: string;
  readonly effects: readonly ChainEffect[];
  readonly format: OutputFormatId;
}

/** Renders one sound of a batch, which is named by its path within the folder, into a file. */
type Renderer = (file: string, output: string) => Promise<Rendered>;

/** Sound files of a folder and of those in it, as paths within it, in order. */
async function soundsIn({ source, target }: Batch): Promise<string[]> {
  const entries = await readdir(source, { recursive: true, withFileTypes: true }).catch((error: unknown) => {
    throw new KinetikonError('file.missing', `${source} cannot be read: ${messageOf(error)}.`, { cause: error });
  });
  return entries
    .filter((entry) => entry.isFile() && containerOfName(entry.name) !== undefined)
    .map((entry) => join(entry.parentPath, entry.name))
    .filter((path) => !path.startsWith(target + sep))
    .map((path) => relative(source, path))
    .sort();
}

const outputPath = ({ target, format }: Batch, file: string) =>
  join(target, `${file.replace(/\.[^.]*$/, '')}.${extensionOf(outputFormat(format).container)}`);

const cell = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
const figure = (value: number | null | undefined) => (typeof value === 'number' ? value.toFixed(2) : '');

/** A line of the table: of a sound that was rendered, or of one that was left. */
function line(file: string, facts: BounceFacts | null, reason = ''): string {
  const cells = facts
    ? [
        'done',
        facts.seconds.toFixed(3),
        figure(facts.before?.loudnessLufs),
        figure(facts.levels.loudnessLufs),
        figure(facts.before?.truePeakDb),
        figure(facts.levels.truePeakDb),
      ]
    : ['left', '', '', '', '', ''];
  return [cell(file), ...cells, cell(reason)].join(',');
}

/** Lines of files that an earlier run has done: they are in its table, and what it wrote is there. */
async function doneBefore(batch: Batch, files: readonly string[]): Promise<ReadonlyMap<string, string>> {
  const lines = (await readFile(join(batch.target, TABLE), 'utf8').catch(() => '')).split('\n');
  const done = new Map<string, string>();
  for (const file of files) {
    const own = lines.findLast((one) => one.startsWith(`${cell(file)},done,`));
    const isThere = await stat(outputPath(batch, file)).catch(() => null);
    if (own !== undefined && isThere) done.set(file, own);
  }
  return done;
}

/** A sound of a batch through its chain. */
const requestFor = (
  { effects, format }: Batch,
  sound: Pick<Asset, 'id' | 'frames' | 'sampleRateHz'>,
): RenderRequest => ({
  kind: 'chain',
  effects,
  sound,
  tailSeconds: 'auto',
  format,
});

/** Renders in threads of this process. */
function onThreads(batch: Batch, threads: RenderThread[]): Renderer {
  return async (file, output) => {
    const path = join(batch.source, file);
    const scanner = new SoundScanner(file);
    const hash = createHash('sha256');
    for await (const part of createReadStream(path, { highWaterMark: READ_BYTES }) as AsyncIterable<Buffer>) {
      hash.update(part);
      await scanner.push(part);
    }
    const { frames, sampleRateHz } = await scanner.end();
    const id = hash.digest('hex');
    const request = requestFor(batch, { id, frames, sampleRateHz });
    if (renderWork(request).soundIds.length > 1) {
      throw usage('The preset works with a sound of a studio; --database says where that is.');
    }
    const thread = threads.pop()!;
    const sound = await diskFile(path);
    const options = { signal: new AbortController().signal, onProgress: () => {}, output };
    try {
      return await thread.run(request, async () => ({ ...sound, name: file }), options);
    } finally {
      await sound.close();
      threads.push(thread);
    }
  };
}

/** Has the workers of a studio render. */
function inQueue(batch: Batch, db: Database): Renderer {
  const { source } = batch;
  return async (file, output) => {
    const body = createReadStream(join(source, file));
    const { id, frames, sampleRateHz } = await storeAsset(db, basename(file), body, { isTemporary: true });
    const request = requestFor(batch, { id, frames, sampleRateHz });
    const order = await orderRender(db, { request, name: `batch of ${basename(source)}`, isBatch: true });
    for (;;) {
      const { state, error, result } = await findRender(db, order.id);
      if (state === 'failed' || state === 'cancelled') {
        throw new KinetikonError('engine.stopped', error?.message ?? 'The render was cancelled.');
      }
      if (state === 'done') {
        const { bytes, read } = await renderResult(db, order.id);
        await pipeline(read(0, bytes), createWriteStream(output));
        return { facts: result!, bytes };
      }
      await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    }
  };
}

/**
 * Renders files, some at a time; what cannot be read is named in the table and left.
 * @returns how many were left
 */
async function renderAll(
  batch: Batch,
  files: readonly string[],
  render: Renderer,
  atOnce: number,
  onProgress: (share: number) => void,
): Promise<number> {
  const waiting = [...files];
  let left = 0;
  let ended = 0;
  const table = join(batch.target, TABLE);
  const lane = async () => {
    for (let file = waiting.shift(); file !== undefined; file = waiting.shift()) {
      try {
        const path = outputPath(batch, file);
        await mkdir(dirname(path), { recursive: true });
        const { facts } = await madeWhole(path, (output) => render(file, output));
        await appendFile(table, `${line(file, facts as BounceFacts)}\n`);
      } catch (error) {
        if (error instanceof KinetikonError && error.code === 'usage') throw error;
        left++;
        await appendFile(table, `${line(file, null, messageOf(error))}\n`);
      }
      onProgress(++ended / files.length);
    }
  };
  await Promise.all(Array.from({ length: Math.min(atOnce, files.length) }, lane));
  return left;
}

/** Brings the lines of the table, which stand as they came, into the order of the files. */
async function sortTable({ target }: Batch, files: readonly string[]): Promise<void> {
  const path = join(target, TABLE);
  const lines = (await readFile(path, 'utf8')).split('\n');
  const sorted = files.flatMap((file) => lines.findLast((one) => one.startsWith(`${cell(file)},`)) ?? []);
  await writeWhole(path, Buffer.from([HEADER, ...sorted, ''].join('\n')));
}

/** `batch`: every sound of a folder through a chain. */
export async function runBatch(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, {
    '--chain': true,
    '-o': true,
    '--workers': true,
    '--resume': false,
    '--format': true,
    '--database': true,
  });
  const [source, ...others] = options.positional;
  const chain = one(options, '--chain');
  if (source === undefined || chain === undefined) throw usage('batch needs a folder and --chain PRESET.');
  if (others.length > 0) throw usage(`batch takes one folder, not also "${others[0]}".`);
  const { output, format } = outputOf(options, 'batch');
  const workers = one(options, '--workers') ?? String(availableParallelism());
  const atOnce = Math.round(numberBetween('--workers', workers, 1, 256, 'sounds at once'));
  const { effects } = parsePreset(await readTextFile(chain));
  const batch: Batch = { source: resolve(source), target: resolve(output), effects, format };
  const files = await soundsIn(batch);
  if (files.length === 0) throw usage(`There is no sound in ${source}.`);
  const taken = new Map<string, string>();
  for (const file of files) {
    const other = taken.get(outputPath(batch, file));
    if (other !== undefined) throw usage(`${other} and ${file} would become the same file.`);
    taken.set(outputPath(batch, file), file);
  }
  await mkdir(batch.target, { recursive: true });
  const isResumed = one(options, '--resume') !== undefined;
  const done = isResumed ? await doneBefore(batch, files) : new Map<string, string>();
  await writeFile(join(batch.target, TABLE), [HEADER, ...done.values(), ''].join('\n'));
  const open = one(options, '--database');
  const studio = open === undefined ? null : await openDatabase({ url: open });
  const threads = Array.from({ length: atOnce }, () => new RenderThread());
  try {
    const render = studio ? inQueue(batch, studio.db) : onThreads(batch, threads);
    const asked = files.filter((file) => !done.has(file));
    const onProgress = (share: number) => terminal.progress(share);
    const left = await renderAll(batch, asked, render, studio ? IN_QUEUE : atOnce, onProgress);
    await sortTable(batch, files);
    terminal.out(`${asked.length - left} rendered, ${done.size} done before, ${left} left; ${join(output, TABLE)}`);
  } finally {
    for (const thread of threads) thread.close();
    await studio?.close();
  }
}
