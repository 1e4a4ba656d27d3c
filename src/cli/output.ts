import { clippingOf } from '@/core/analysis/clipping';
import { measureLevels } from '@/core/analysis/levels';
import type { Sound } from '@/core/formats/sound';
import {
  CONTAINERS,
  containerOfName,
  OUTPUT_FORMATS,
  outputFormat,
  type OutputFormatId,
} from '@/core/formats/soundFormats';
import { writeSound as writeFile } from '@/core/formats/writeSound';
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
  const clipped = clippingOf(sound.channels);
  if (!outputFormat(format).passesFullScale && clipped.samples > 0) {
    terminal.note(
      `${output}: ${clipped.samples} samples passed full scale, by up to ${clipped.overDb.toFixed(1)} dB, and are cut off there; --normalise brings the sound down, --format 32f keeps them.`,
    );
  }
  await writeWhole(output, await writeFile(sound, format));
}

/** Brings the highest true peak to the level of `--normalise`. */
function normalise({ channels, sampleRateHz }: Sound, terminal: Terminal): void {
  const { truePeakDb } = measureLevels({ channels, sampleRateHz });
  if (truePeakDb === null) return;
  const gainDb = NORMALISED_DBTP - truePeakDb;
  const gain = 10 ** (gainDb / 20);
  for (const channel of channels) channel.forEach((x, n) => (channel[n] = x * gain));
  terminal.note(`The sound is ${gainDb < 0 ? 'lowered' : 'lifted'} by ${Math.abs(gainDb).toFixed(1)} dB.`);
}
