import { writeFile } from 'node:fs/promises';
import { LevelMeter, measureLevels, type Levels } from '@/core/analysis/levels';
import { inBlocks } from '@/core/formats/inBlocks';
import { openSeekable } from '@/core/formats/seekable/seekable';
import { runJob } from '@/core/jobs/jobs';
import type { PlayedSound, SharedSamples, Task } from '@/core/jobs/kinds';
import { LONG_SECONDS, pageCount } from '@/core/pages/pagedSamples';
import { PageReader } from '@/core/pages/pageReader';
import { assetOfSound } from '@/core/session/records/sounds';
import { renderWork, type RenderRequest, type RenderWork } from '@/core/session/renderRequests';
import { DecodedSounds } from './decodedSounds';
import { DiskSink } from './diskFiles';
import type { FileOf, Rendered, SoundFile } from './renderMessages';

/** Part of the progress that decoding takes. */
const DECODING = 0.1;

/** Work that plays sounds; other work needs them whole. */
const PLAYING: readonly string[] = ['bounce', 'print', 'swell'];

/** Bytes from which on a file may hold a long sound. */
const LONG_BYTES = 512 * 1024;

export interface RequestOptions {
  /** From 0 to 1; what it throws ends the work. */
  readonly onProgress?: (done: number) => void;
  /** Sounds of earlier requests. */
  readonly decoded?: DecodedSounds;
}

/**
 * Compiles a request and runs it. Long sounds are read as they are played.
 * @param fileOf asked for the sounds that the request names
 * @param output path of the sound file that comes out; who asks for it removes what a failure leaves there
 * @throws KinetikonError as the jobs do, and what `fileOf` throws
 */
export async function runRequest(
  request: RenderRequest,
  fileOf: FileOf,
  output: string,
  { onProgress = () => {}, decoded = new DecodedSounds() }: RequestOptions = {},
): Promise<Rendered> {
  const work = renderWork(request);
  const files = new Map<string, SoundFile>();
  const samples: PlayedSound[] = [];
  for (const [n, soundId] of work.soundIds.entries()) {
    const isWhole = !PLAYING.includes(work.task.kind) || decoded.has(soundId, work.sampleRateHz);
    const long = isWhole ? null : await longFile(soundId, fileOf);
    if (long) {
      files.set(soundId, long);
      samples.push({ assetId: soundId, name: long.name, isLong: true });
    } else samples.push(await decoded.of(soundId, work.sampleRateHz, fileOf));
    onProgress((DECODING * (n + 1)) / work.soundIds.length);
  }
  const sink = new DiskSink(output);
  try {
    const onStep = (step: unknown) => {
      if (typeof step === 'number') onProgress(DECODING + (1 - DECODING) * step);
    };
    const place = { open: async ({ assetId }: { readonly assetId: string }) => files.get(assetId)!, sink };
    const result = await runJob(taskOf(work, samples), onStep, place);
    if ('bytes' in result) {
      await writeFile(output, result.bytes);
      // Samples of an impulse are in its file.
      return { facts: { sampleRateHz: work.sampleRateHz }, bytes: result.bytes.length };
    }
    const before =
      request.kind === 'chain' ? { before: await levelsOf(samples[0]!, files, request.sound.sampleRateHz) } : {};
    return { facts: { ...result, ...before } as unknown as Rendered['facts'], bytes: sink.size || null };
  } finally {
    sink.close();
  }
}

/** The file of a sound that is read by pages; null for one that is decoded as a whole. */
async function longFile(soundId: string, fileOf: FileOf): Promise<SoundFile | null> {
  const { name, ...file } = await fileOf(assetOfSound(soundId).assetId);
  if (file.size < LONG_BYTES) return null;
  const blocks = inBlocks(file);
  const sound = await openSeekable(blocks, name);
  if (!sound) return null;
  const seconds = sound.frames / sound.sampleRateHz;
  sound.free();
  return seconds > LONG_SECONDS ? { name, ...blocks } : null;
}

async function levelsOf(
  sound: PlayedSound,
  files: ReadonlyMap<string, SoundFile>,
  sampleRateHz: number,
): Promise<Levels> {
  if ('left' in sound) {
    const { left, right } = sound;
    return measureLevels({ sampleRateHz, channels: left === right ? [left] : [left, right] });
  }
  const { assetId, name } = sound;
  const seekable = await openSeekable(files.get(assetId)!, name);
  const reader = new PageReader(seekable!, assetOfSound(assetId).heard, sampleRateHz);
  const meter = new LevelMeter(sampleRateHz, reader.sides);
  try {
    for (let page = 0; page < pageCount(reader.frames); page++) meter.take(await reader.page(page));
    return meter.end();
  } finally {
    meter.free();
    reader.free();
  }
}

function taskOf({ task }: RenderWork, samples: readonly PlayedSound[]): Task {
  switch (task.kind) {
    case 'impulse':
      return task;
    case 'match': {
      const { shippedId, sampleRateHz } = task;
      return { kind: 'match', impulse: shippedId === null ? whole(samples[0]!) : { shippedId }, sampleRateHz };
    }
    case 'repair':
      return { ...task, samples: samples.map(whole) };
    default:
      return { ...task, samples };
  }
}

function whole(sound: PlayedSound): SharedSamples {
  if ('left' in sound) return sound;
  throw new Error(`${sound.name} was not decoded as a whole`);
}
