import { createHash } from 'node:crypto';
import { clippingOf } from '@/core/analysis/clipping';
import { measureLevels } from '@/core/analysis/levels';
import { measureRoom } from '@/core/dsp/decay';
import { resample } from '@/core/dsp/resampler';
import type { PlanInsert, Samples } from '@/core/engine/plan';
import { chainPlan } from '@/core/engine/plans';
import { LONGEST_TAIL_SECONDS, tailOf } from '@/core/engine/render';
import { runJob } from '@/core/jobs/jobs';
import type { Timing } from '@/core/effects/noteValues';
import { describeRange, formatValue, parseValue } from '@/core/effects/parameterText';
import { EFFECTS, effectById } from '@/core/effects/registry';
import { completed, resolveSettings, resolveValues, validateTimes } from '@/core/effects/resolve';
import { resourceFor } from '@/core/effects/resource';
import { describeSetting, normalSetting, type Setting } from '@/core/effects/settings';
import {
  controlsOf,
  findParameter,
  findSetting,
  withNamedItemsOn,
  type EffectSpec,
  type ParameterValue,
} from '@/core/effects/spec';
import { writeFlac } from '@/core/formats/flac';
import { parsePreset } from '@/core/formats/preset';
import { stereoOf, type Sound } from '@/core/formats/sound';
import { writeWav } from '@/core/formats/wav';
import { numberBetween, parseArguments, splitOnce, usage, type Options } from './arguments';
import { readSoundFile, readTextFile, writeWhole } from './files';
import { roomLines } from './impulses';
import type { Terminal } from './terminal';

const FORMATS = ['16', '24', '32f', 'flac'] as const;
type Format = (typeof FORMATS)[number];
/** True peak that --normalise brings a sound to. */
const NORMALISED_DBTP = -1;

const one = (options: Options, name: string) => options.named.findLast(([given]) => given === name)?.[1];

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

async function presetFor(path: string, spec: EffectSpec): Promise<Readonly<Record<string, ParameterValue>>> {
  const preset = parsePreset(await readTextFile(path));
  const [only] = preset.effects;
  if (preset.kind !== 'effect' || !only)
    throw usage(`${path} is a preset for a chain; --preset takes one for an effect.`);
  if (only.effect !== spec.id) throw usage(`${path} is a preset for ${only.effect}, not for ${spec.id}.`);
  return only.values;
}

interface ChosenChain {
  readonly inserts: readonly PlanInsert[];
  /** Files that effects work with, by what their settings call them. */
  readonly sounds: ReadonlyMap<string, { readonly path: string; readonly sound: Sound }>;
}

/** What a setting is given: of a sound that does not ship with the effect the sum of its file. */
async function soundIn(
  setting: Setting,
  written: string,
  sounds: Map<string, { path: string; sound: Sound }>,
): Promise<string> {
  if (setting.kind !== 'sound' || setting.shipped.some(({ id }) => id === written)) return written;
  const sound = await readSoundFile(written);
  const seconds = sound.channels[0]!.length / sound.sampleRateHz;
  if (seconds > setting.longestSeconds) {
    throw usage(`${setting.id} takes ${describeSetting(setting)}; ${written} lasts ${seconds.toFixed(1)} s.`);
  }
  const hash = createHash('sha256');
  for (const channel of sound.channels)
    hash.update(new Uint8Array(channel.buffer, channel.byteOffset, channel.byteLength));
  const id = hash.update(String(sound.sampleRateHz)).digest('hex');
  sounds.set(id, { path: written, sound });
  return id;
}

/** The chain that --effect, --set and --preset describe, in their order. */
async function chainFrom(options: Options, timing: Timing): Promise<ChosenChain> {
  const sounds = new Map<string, { path: string; sound: Sound }>();
  const chain: { spec: EffectSpec; values: Record<string, ParameterValue> }[] = [];
  for (const [name, text] of options.named) {
    if (name === '--effect') {
      chain.push({ spec: effectById(text), values: {} });
      continue;
    }
    if (name !== '--set' && name !== '--preset') continue;
    const last = chain.at(-1);
    if (!last) throw usage(`${name} ${text} must come after the --effect it belongs to.`);
    if (name === '--preset') {
      Object.assign(last.values, await presetFor(text, last.spec));
      continue;
    }
    if (!text.includes('=')) throw usage(`--set takes NAME=VALUE, not "${text}".`);
    const [id, written] = splitOnce(text);
    const setting = findSetting(last.spec, id);
    if (setting) {
      last.values[id] = normalSetting(setting, await soundIn(setting, written, sounds));
      continue;
    }
    const parameter = findParameter(last.spec, id);
    if (!parameter) {
      const ids = controlsOf(last.spec).map((p) => p.id);
      throw usage(`${last.spec.id} has no parameter ${id}; it has ${ids.join(', ')}.`);
    }
    last.values[id] = parseValue(parameter, written, timing);
  }
  if (chain.length === 0) throw usage('process needs at least one --effect.');
  const inserts = chain.map(({ spec, values }, place) => {
    const whole = completed(spec, {}, withNamedItemsOn(spec, values), timing);
    validateTimes(spec, whole, timing);
    const settings = resolveSettings(spec, whole);
    return {
      id: `effect-${place + 1}`,
      effect: spec.id,
      bypass: false,
      values: resolveValues(spec, whole, timing),
      ...(settings ? { settings } : {}),
    };
  });
  return { inserts, sounds };
}

/** Both sides of a sound at another rate. */
function atRate(sound: Sound, rate: number): Samples {
  const { left, right } = stereoOf(sound);
  const converted = resample(left, sound.sampleRateHz, rate)!;
  return { left: converted, right: right === left ? converted : resample(right, sound.sampleRateHz, rate)! };
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
  const { inserts: chosen, sounds: files } = await chainFrom(options, { tempoBpm, beatsPerBar: 4 });
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
  const inserts = chosen.map((insert) => {
    const resource = resourceFor(effectById(insert.effect), rate, insert.values, insert.settings);
    return resource ? { ...insert, resource } : insert;
  });
  const { plan, samples } = chainPlan(inserts, rate, stereo, key);
  for (const [id, file] of files) {
    sayWhatWasChosen(file.path, file.sound, rate, terminal);
    samples.set(id, atRate(file.sound, rate));
  }
  if (tailSeconds === 'auto' && tailOf(plan, samples) > LONGEST_TAIL_SECONDS) {
    terminal.note(
      `The effects sound on for longer than ${LONGEST_TAIL_SECONDS} s; the rest is cut off: --tail sets it.`,
    );
  }
  const range = { fromFrame: 0, toFrame: plan.endFrame, tailSeconds } as const;
  const sounds = [...samples].map(([assetId, one]) => ({ assetId, ...one }));
  const done = await runJob({ kind: 'render', plan, samples: sounds, range }, (step) => {
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

/** Says what was decided about a file that its owner may not expect. */
function sayWhatWasChosen(path: string, sound: Sound, rate: number, terminal: Terminal): void {
  const { channels, sampleRateHz, notNumbers } = sound;
  if (channels.length > 2) terminal.note(`${path} has ${channels.length} channels; the first two are used.`);
  if (notNumbers) terminal.note(`${path} holds ${notNumbers} samples that are not numbers; they are silence here.`);
  if (sampleRateHz !== rate) terminal.note(`${path} is brought from ${sampleRateHz} Hz to ${rate} Hz.`);
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

/** `measure`: loudness, peaks, correlation and what mono loses; with --impulse decay and clarity as well. */
export async function measureSound(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, { '--json': false, '--impulse': false });
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('measure needs a sound file.');
  if (others.length > 0) throw usage(`measure takes one sound file, not also "${others[0]}".`);
  const sound = await readSoundFile(input);
  const levels = measureLevels(sound);
  const room =
    one(options, '--impulse') === undefined ? null : measureRoom(sound.channels.slice(0, 2), sound.sampleRateHz);
  if (one(options, '--json') !== undefined) {
    terminal.out(JSON.stringify(room ? { ...levels, room } : levels, null, 2));
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
  for (const line of room ? roomLines(room) : []) terminal.out(line);
}
