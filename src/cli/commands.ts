import { clippingOf } from '@/core/analysis/clipping';
import { measureLevels } from '@/core/analysis/levels';
import { centreHz, measureField, type FieldBand, type StereoField } from '@/core/analysis/stereoField';
import { measureRoom } from '@/core/dsp/decay';
import { describeRange, formatValue } from '@/core/effects/parameterText';
import { EFFECTS } from '@/core/effects/registry';
import { describeSetting } from '@/core/effects/settings';
import { controlsOf } from '@/core/effects/spec';
import type { Samples } from '@/core/engine/plan';
import { chainPlan } from '@/core/engine/plans';
import { LONGEST_TAIL_SECONDS, tailOf } from '@/core/engine/render';
import { writeFlac } from '@/core/formats/flac';
import type { Sound } from '@/core/formats/sound';
import { writeWav } from '@/core/formats/wav';
import { runJob } from '@/core/jobs/jobs';
import { numberBetween, one, parseArguments, usage } from './arguments';
import { atRate, chainFrom, sayWhatWasChosen, soundsAtRate, withResources } from './chain';
import { readSoundFile, writeWhole } from './files';
import { roomLines } from './impulses';
import type { Terminal } from './terminal';

const FORMATS = ['16', '24', '32f', 'flac'] as const;
type Format = (typeof FORMATS)[number];
/** True peak that --normalise brings a sound to. */
const NORMALISED_DBTP = -1;

/** `effects`: every effect with parameters, units, ranges and defaults. */
export function listEffects(args: readonly string[], terminal: Terminal): void {
  const options = parseArguments(args, { '--json': false });
  if (options.positional.length > 0) throw usage(`effects takes no "${options.positional[0]}".`);
  if (one(options, '--json') !== undefined) {
    terminal.out(JSON.stringify(EFFECTS, null, 2));
    return;
  }
  const timing = { tempoBpm: 120, beatsPerBar: 4 };
  for (const spec of EFFECTS) {
    terminal.out(`${spec.id}: ${spec.purpose}`);
    const { settings = [] } = spec;
    const width = Math.max(...controlsOf(spec).map(({ id }) => id.length));
    for (const parameter of spec.parameters) {
      const standard =
        typeof parameter.default === 'string' ? parameter.default : formatValue(parameter, parameter.default, timing);
      terminal.out(
        `  ${parameter.id.padEnd(width)}  ${describeRange(parameter)}; default ${standard}. ${parameter.help}`,
      );
    }
    for (const setting of settings) {
      const { id, help } = setting;
      terminal.out(`  ${id.padEnd(width)}  ${describeSetting(setting)}; default ${setting.default}. ${help}`);
    }
    terminal.out('');
  }
}

/** `process`: a sound through a chain of effects into a file. */
export async function processSound(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, {
    '-o': true,
    '--effect': true,
    '--key': true,
    '--set': true,
    '--preset': true,
    '--tempo': true,
    '--tail': true,
    '--rate': true,
    '--format': true,
    '--normalise': false,
  });
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('process needs a sound file.');
  if (others.length > 0) throw usage(`process takes one sound file, not also "${others[0]}".`);
  const output = one(options, '-o');
  if (output === undefined) throw usage('process needs -o OUT.');
  const tempoBpm = numberBetween('--tempo', one(options, '--tempo') ?? '120', 20, 300, 'beats a minute');
  const tail = one(options, '--tail');
  const tailSeconds = tail === undefined ? 'auto' : numberBetween('--tail', tail, 0, 600, 'seconds');
  const format = (one(options, '--format') ?? (output.toLowerCase().endsWith('.flac') ? 'flac' : '24')) as Format;
  if (!FORMATS.includes(format)) throw usage(`--format takes ${FORMATS.join(', ')}, not "${format}".`);
  const chosen = await chainFrom(options, { tempoBpm, beatsPerBar: 4 });
  if (chosen.inserts.length === 0) throw usage('process needs at least one --effect.');
  const rateText = one(options, '--rate');
  const askedRate = rateText === undefined ? undefined : numberBetween('--rate', rateText, 8000, 192000, 'Hz');

  const sound = await readSoundFile(input);
  const rate = Math.round(askedRate ?? sound.sampleRateHz);
  sayWhatWasChosen(input, sound, rate, terminal);
  const stereo = atRate(sound, rate);
  const keyFile = one(options, '--key');
  let key: Samples | undefined;
  if (keyFile !== undefined) {
    const keySound = await readSoundFile(keyFile);
    sayWhatWasChosen(keyFile, keySound, rate, terminal);
    key = atRate(keySound, rate);
  }
  const sounds = soundsAtRate(chosen, rate, terminal);
  const { plan, samples } = chainPlan(withResources(chosen.inserts, rate), rate, stereo, key, sounds);
  if (tailSeconds === 'auto' && tailOf(plan, samples) > LONGEST_TAIL_SECONDS) {
    terminal.note(
      `The effects sound on for longer than ${LONGEST_TAIL_SECONDS} s; the rest is cut off: --tail sets it.`,
    );
  }
  const range = { fromFrame: 0, toFrame: plan.endFrame, tailSeconds } as const;
  const given = [...samples].map(([assetId, one]) => ({ assetId, ...one }));
  const done = await runJob({ kind: 'render', plan, samples: given, range }, (step) => {
    if (typeof step === 'number') terminal.progress(step);
  });
  terminal.progress(1);
  const out = { sampleRateHz: rate, channels: [done.left, done.right] };
  if (one(options, '--normalise') !== undefined) normalise(out, terminal);
  const clipped = clippingOf(out.channels);
  if (format !== '32f' && clipped.samples > 0) {
    terminal.note(
      `${output}: ${clipped.samples} samples passed full scale, by up to ${clipped.overDb.toFixed(1)} dB, and are cut off there; --normalise brings the sound down, --format 32f keeps them.`,
    );
  }
  await writeWhole(output, format === 'flac' ? await writeFlac(out, 24) : writeWav(out, format));
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

/** The field between both sides, a line each. */
function fieldLines({ tiltDb, octaves, worst }: StereoField): string[] {
  const figure = (value: number | null, digits: number) => (value === null ? '-' : value.toFixed(digits));
  const centre = (band: FieldBand) => `${Number(centreHz(band).toPrecision(3))} Hz`;
  return [
    `tilt          ${tiltDb === null ? 'one side is silent' : Math.abs(tiltDb) < 0.05 ? 'none' : `${Math.abs(tiltDb).toFixed(1)} dB to the ${tiltDb > 0 ? 'left' : 'right'}`}`,
    ...(worst ? [`worst third   ${worst.monoLossDb!.toFixed(1)} dB lost in mono at ${centre(worst)}`] : []),
    'octave        correlation  lost in mono',
    ...octaves.map(
      (band) =>
        `${centre(band).padEnd(12)}  ${figure(band.correlation, 2).padStart(11)}  ${`${figure(band.monoLossDb, 1)} dB`.padStart(12)}`,
    ),
  ];
}

/** `measure`: loudness, peaks, the field between the sides and what mono loses; with --impulse decay and clarity as well. */
export async function measureSound(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, { '--json': false, '--impulse': false });
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('measure needs a sound file.');
  if (others.length > 0) throw usage(`measure takes one sound file, not also "${others[0]}".`);
  const sound = await readSoundFile(input);
  const levels = measureLevels(sound);
  const room =
    one(options, '--impulse') === undefined ? null : measureRoom(sound.channels.slice(0, 2), sound.sampleRateHz);
  const [left, right] = sound.channels;
  const field = left && right ? measureField(left, right, sound.sampleRateHz) : null;
  if (one(options, '--json') !== undefined) {
    terminal.out(JSON.stringify({ ...levels, ...(field ? { field } : {}), ...(room ? { room } : {}) }, null, 2));
    return;
  }
  const figure = (value: number | null, unit: string, digits = 1) =>
    value === null ? 'silence' : `${value.toFixed(digits)} ${unit}`;
  if (levels.channels > 2) {
    terminal.note('Loudness counts all channels as BS.1770-4 does; correlation and mono are those of the first two.');
  }
  terminal.out(`length        ${levels.seconds.toFixed(3)} s, ${levels.channels} channels, ${levels.sampleRateHz} Hz`);
  terminal.out(`loudness      ${figure(levels.loudnessLufs, 'LUFS')}`);
  terminal.out(`true peak     ${figure(levels.truePeakDb, 'dBTP')}`);
  terminal.out(`sample peak   ${figure(levels.peakDb, 'dBFS')}, ${levels.overs} over full scale`);
  terminal.out(`RMS           ${figure(levels.rmsDb, 'dBFS')}`);
  terminal.out(
    `correlation   ${levels.correlation === null ? 'none, one side is silent' : levels.correlation.toFixed(2)}`,
  );
  terminal.out(
    `lost in mono  ${levels.monoLossLu === null ? 'everything or nothing to lose' : `${levels.monoLossLu.toFixed(1)} LU`}`,
  );
  for (const line of field ? fieldLines(field) : []) terminal.out(line);
  for (const line of room ? roomLines(room) : []) terminal.out(line);
}
