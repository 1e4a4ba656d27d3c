import { writeFile } from 'node:fs/promises';
import { LevelMeter, measureLevels, type Levels } from '@/core/analysis/levels';
import { runJob } from '@/core/jobs/jobs';
import { readsLongSounds, type PlayedSound, type SharedSamples, type Task } from '@/core/jobs/kinds';
import type { LongSound } from '@/core/jobs/place';
import { pageCount } from '@/core/pages/pagedSamples';
import { PageReader } from '@/core/pages/pageReader';
import { assetOfSound } from '@/core/session/records/sounds';
import { renderWork, type RenderRequest, type RenderWork } from '@/core/session/renderRequests';
import { DecodedSounds } from './decodedSounds';
import { DiskSink } from './diskFiles';
import { LongSounds } from './longSounds';
import type { FileOf, Rendered, SoundFile } from './renderMessages';

/** Part of the progress that decoding takes. */
const DECODING = 0.1;

export interface RequestOptions {
  /** From 0 to 1; what it throws ends the work. */
  readonly onProgress?: (done: number) => void;
  /** Sounds of earlier requests. */
  readonly decoded?: DecodedSounds;
}

/**
 * Compiles a request and runs it. Long sounds are read as they are played.
 * @param askFile asked once for each sound that the request names
 * @param output path of the sound file that comes out; who asks for it removes what a failure leaves there
 * @throws KinetikonError as the jobs do, and what `askFile` throws
 */
export async function runRequest(
  request: RenderRequest,
  askFile: FileOf,
  output: string,
  { onProgress = () => {}, decoded = new DecodedSounds() }: RequestOptions = {},
): Promise<Rendered> {
  const work = renderWork(request);
  const fileOf = once(askFile);
  const long = new LongSounds(fileOf, output);
  const samples: PlayedSound[] = [];
  const sink = new DiskSink(output);
  try {
    for (const [n, soundId] of work.soundIds.entries()) {
      const isWhole = !readsLongSounds(work.task) || decoded.has(soundId, work.sampleRateHz);
      const sound = isWhole ? null : await long.find(soundId);
      samples.push(sound ?? (await decoded.of(soundId, work.sampleRateHz, fileOf)));
      onProgress((DECODING * (n + 1)) / work.soundIds.length);
    }
    const onStep = (step: unknown) => {
      if (typeof step === 'number') onProgress(DECODING + (1 - DECODING) * step);
    };
    const open = (sound: LongSound) => long.open(sound.assetId);
    const result = await runJob(taskOf(work, samples), onStep, { open, sink });
    if ('bytes' in result) {
      await writeFile(output, result.bytes);
      // Samples of an impulse are in its file.
      return { facts: { sampleRateHz: work.sampleRateHz }, bytes: result.bytes.length };
    }
    const before =
      request.kind === 'chain' ? { before: await levelsOf(samples[0]!, long, request.sound.sampleRateHz) } : {};
    return { facts: { ...result, ...before } as unknown as Rendered['facts'], bytes: sink.size || null };
  } finally {
    sink.close();
    await long.close();
  }
}

/** Keeps the files that were asked for. */
function once(askFile: FileOf): FileOf {
  const asked = new Map<string, Promise<SoundFile>>();
  return (assetId) => {
    const file = asked.get(assetId) ?? askFile(assetId);
    asked.set(assetId, file);
    return file;
  };
}

async function levelsOf(sound: PlayedSound, long: LongSounds, sampleRateHz: number): Promise<Levels> {
  if ('left' in sound) {
    const { left, right } = sound;
    return measureLevels({ sampleRateHz, channels: left === right ? [left] : [left, right] });
  }
  const { assetId } = sound;
  const reader = new PageReader(await long.open(assetId), assetOfSound(assetId).heard, sampleRateHz);
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
