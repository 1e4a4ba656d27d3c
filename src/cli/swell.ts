import { PLAIN_TIMING } from '@/core/effects/noteValues';
import { specOf } from '@/core/effects/registry';
import { resolveSettings, resolveValues } from '@/core/effects/resolve';
import { LONGEST_TAIL_SECONDS, type PlanInsert, type Samples } from '@/core/engine/plan';
import { inOne } from '@/core/formats/parts';
import { stereoOf } from '@/core/formats/sound';
import { renderSwell } from '@/core/swells/renderSwell';
import { wetOnly } from '@/core/swells/wetOnly';
import { numberBetween, one, parseArguments, usage, type Options } from './arguments';
import { chainFrom, sayWhatWasChosen, soundsAtRate, withResources } from './chain';
import { readThrough, type SoundFileFacts } from './files';
import { OUTPUT, outputOf, writeSound } from './output';
import type { Terminal } from './terminal';

/** The space where none is named. */
const HALL = { size: 40, decay: 3.5, earlyLate: 85 };

function hall(): PlanInsert {
  const spec = specOf('reverb');
  const settings = resolveSettings(spec, HALL)!;
  return { id: 'hall', effect: 'reverb', bypass: false, values: resolveValues(spec, HALL, PLAIN_TIMING), settings };
}

function seconds(options: Options, name: string, least: number, most: number, byDefault: number): number {
  const text = one(options, name);
  return text === undefined ? byDefault : numberBetween(name, text, least, most, 'seconds');
}

/** The source of a swell: a sound from its landing on. */
async function wordOf(
  path: string,
  landSeconds: number,
  sourceSeconds: number,
): Promise<{ word: Samples; facts: SoundFileFacts }> {
  const kept: (readonly Float32Array[])[] = [];
  let at = 0;
  const facts = await readThrough(path, (piece, rate) => {
    const from = Math.max(0, Math.round(landSeconds * rate) - at);
    const to = Math.round(landSeconds * rate) + Math.round(sourceSeconds * rate) - at;
    at += piece[0]!.length;
    if (to > 0) kept.push(piece.map((channel) => channel.slice(from, to)));
  });
  return { word: stereoOf({ sampleRateHz: facts.sampleRateHz, channels: inOne(kept) }), facts };
}

/** `swell`: a reverse reverb that grows towards a word and ends where that begins. */
export async function writeSwell(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, {
    ...OUTPUT,
    '--land': true,
    '--source': true,
    '--length': true,
    '--fade-in': true,
    '--gap': true,
    '--level': true,
    '--over': false,
    '--effect': true,
    '--set': true,
    '--preset': true,
  });
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('swell needs a sound file.');
  if (others.length > 0) throw usage(`swell takes one sound file, not also "${others[0]}".`);
  outputOf(options, 'swell');
  const landing = one(options, '--land');
  if (landing === undefined) throw usage('swell needs --land SECONDS, where the word begins.');
  const chain = await chainFrom(options, PLAIN_TIMING);
  const sourceSeconds = seconds(options, '--source', 0.01, 60, 0.5);
  const { word, facts } = await wordOf(input, Number(landing), sourceSeconds);
  const rate = facts.sampleRateHz;
  numberBetween('--land', landing, 0, facts.frames / rate, 'seconds');
  sayWhatWasChosen(input, facts, rate, terminal);
  const length = one(options, '--length');
  const steps = renderSwell(
    word,
    withResources(wetOnly(chain.inserts.length > 0 ? chain.inserts : [hall()]), rate),
    {
      sampleRate: rate,
      landFrame: 0,
      sourceSeconds,
      lengthSeconds:
        length === undefined ? null : numberBetween('--length', length, 0.01, LONGEST_TAIL_SECONDS, 'seconds'),
      fadeInSeconds: seconds(options, '--fade-in', 0, 60, 0),
      fadeShape: 'smooth',
      width: 1,
      gapSeconds: seconds(options, '--gap', 0, 10, 0),
      levelDb:
        one(options, '--level') === undefined ? 0 : numberBetween('--level', one(options, '--level')!, -60, 24, 'dB'),
      over: one(options, '--over') !== undefined,
    },
    soundsAtRate(chain, rate, terminal),
  );
  for (;;) {
    const step = steps.next();
    if (!step.done) {
      terminal.progress(step.value);
      continue;
    }
    terminal.progress(1);
    const { left, right } = step.value;
    await writeSound({ sampleRateHz: rate, channels: [left, right] }, options, 'swell', terminal);
    return;
  }
}
