import { rm } from 'node:fs/promises';
import { clippingOf } from '@/core/analysis/clipping';
import { measureLevels } from '@/core/analysis/levels';
import { openSeekable } from '@/core/formats/seekable/seekable';
import { PART_FRAMES, type Sound } from '@/core/formats/sound';
import {
  CONTAINERS,
  containerOfName,
  OUTPUT_FORMATS,
  outputFormat,
  type OutputFormatId,
} from '@/core/formats/soundFormats';
import { openWriter, writeSound as writeFile } from '@/core/formats/writeSound';
import { runJob } from '@/core/jobs/jobs';
import type { JobStep, Rendering } from '@/core/jobs/kinds';
import type { JobPlace } from '@/core/jobs/place';
import { diskFile, DiskSink } from '@/server/renders/diskFiles';
import { one, usage, type Options } from './arguments';
import { writeWhole } from './files';
import type { Terminal } from './terminal';

const FORMATS: readonly string[] = OUTPUT_FORMATS.map(({ id }) => id).sort();
/** True peak that --normalise brings a sound to. */
const NORMALISED_DBTP = -1;

/** Options of all commands that write a sound. */
export const OUTPUT = { '-o': true, '--format': true, '--normalise': false } as const;

/** The file and the format of the `-o` and `--format` options. @throws KinetikonError usage */
export function outputOf(options: Options, command: string): { output: string; format: OutputFormatId } {
  const output = one(options, '-o');
  if (output === undefined) throw usage(`${command} needs -o OUT.`);
  const format = one(options, '--format') ?? (writtenAs(output) === 'flac' ? 'flac' : '24');
  if (!FORMATS.includes(format)) throw usage(`--format takes ${FORMATS.join(', ')}, not "${format}".`);
  return { output, format: format as OutputFormatId };
}

/** The container that a file to be written is named after, WAV for other names. @throws KinetikonError usage for one that is only read */
export function writtenAs(output: string): 'wav' | 'flac' {
  const container = containerOfName(output) ?? 'wav';
  if (container !== 'wav' && container !== 'flac')
    throw usage(`${output} is named after ${CONTAINERS[container].name}, which is not written; WAV and FLAC are.`);
  return container;
}

/** Writes a sound, brought to a level where that is asked for, and says what is cut off at full scale. */
export async function writeSound(sound: Sound, options: Options, command: string, terminal: Terminal): Promise<void> {
  const { output, format } = outputOf(options, command);
  if (one(options, '--normalise') !== undefined) normalise(sound, terminal);
  sayWhatIsCut(output, format, clippingOf(sound.channels), terminal);
  await writeWhole(output, await writeFile(sound, format));
}

/** Brings the highest true peak to the level of `--normalise`. */
function normalise({ channels, sampleRateHz }: Sound, terminal: Terminal): void {
  const { truePeakDb } = measureLevels({ channels, sampleRateHz });
  const gain = normalisingGain(truePeakDb, terminal);
  for (const channel of channels) channel.forEach((x, n) => (channel[n] = x * gain));
}

/** Says by how much a sound is lowered or lifted. @param truePeakDb null for silence, which stays as it is */
function normalisingGain(truePeakDb: number | null, terminal: Terminal): number {
  if (truePeakDb === null) return 1;
  const gainDb = NORMALISED_DBTP - truePeakDb;
  terminal.note(`The sound is ${gainDb < 0 ? 'lowered' : 'lifted'} by ${Math.abs(gainDb).toFixed(1)} dB.`);
  return 10 ** (gainDb / 20);
}

/** Part of the progress that rendering takes where the sound is normalised after it. */
const RENDERING = 0.9;

/**
 * Renders into a file, brought to a level where that is asked for, and says what is cut off at full scale. No more of it is
 * held than a part.
 * @param path where the file is made; who asks for it removes what a failure leaves there
 */
export async function renderSound(
  rendering: Rendering,
  open: JobPlace['open'],
  path: string,
  options: Options,
  command: string,
  terminal: Terminal,
): Promise<void> {
  const { output, format } = outputOf(options, command);
  const isNormalised = one(options, '--normalise') !== undefined;
  const share = isNormalised ? RENDERING : 1;
  const rendered = isNormalised ? `${path}.mix` : path;
  const sink = new DiskSink(rendered);
  const task = { kind: 'bounce', ...rendering, format: isNormalised ? '32f' : format, gainDb: 0 } as const;
  const onStep = (step: JobStep) => {
    if (typeof step === 'number') terminal.progress(share * step);
  };
  try {
    const { levels, clipped } = await runJob(task, onStep, { open, sink });
    if (isNormalised) {
      const gain = normalisingGain(levels.truePeakDb, terminal);
      const onPart = (done: number) => terminal.progress(share + (1 - share) * done);
      await rewrite(rendered, path, format, gain, onPart);
    } else sayWhatIsCut(output, format, { samples: clipped, overDb: levels.peakDb ?? 0 }, terminal);
    terminal.progress(1);
  } finally {
    sink.close();
    if (isNormalised) await rm(rendered, { force: true });
  }
}

/** Writes a WAV file anew, in another format and at another level. */
async function rewrite(
  from: string,
  to: string,
  format: OutputFormatId,
  gain: number,
  onProgress: (done: number) => void,
): Promise<void> {
  const file = await diskFile(from);
  const sink = new DiskSink(to);
  try {
    const sound = (await openSeekable(file, from))!;
    const { frames, sampleRateHz, channels } = sound;
    const writer = await openWriter(sampleRateHz, channels, format, frames);
    try {
      for (let at = 0; at < frames; at += PART_FRAMES) {
        const part = await sound.read(at, Math.min(frames, at + PART_FRAMES));
        sink.write(writer.write(part.map((channel) => channel.map((x) => x * gain))));
        onProgress(Math.min(1, (at + PART_FRAMES) / frames));
      }
      const { rest, head } = writer.end();
      sink.write(rest);
      sink.end(head);
    } finally {
      writer.free();
      sound.free();
    }
  } finally {
    sink.close();
    await file.close();
  }
}

function sayWhatIsCut(
  output: string,
  format: OutputFormatId,
  { samples, overDb }: { samples: number; overDb: number },
  terminal: Terminal,
): void {
  if (outputFormat(format).passesFullScale || samples === 0) return;
  terminal.note(
    `${output}: ${samples} samples passed full scale, by up to ${overDb.toFixed(1)} dB, and are cut off there; --normalise brings the sound down, --format 32f keeps them.`,
  );
}
