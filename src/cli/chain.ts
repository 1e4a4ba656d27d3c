import { createHash } from 'node:crypto';
import { resample } from '@/core/dsp/resampler';
import type { Timing } from '@/core/effects/noteValues';
import { parseValue } from '@/core/effects/parameterText';
import { effectById } from '@/core/effects/registry';
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
import type { PlanInsert, Samples } from '@/core/engine/plan';
import { parsePreset } from '@/core/formats/preset';
import { moreOf, stereoOf, type Sound } from '@/core/formats/sound';
import { splitOnce, usage, type Options } from './arguments';
import { readSoundFile, readTextFile, type SoundFileFacts } from './files';
import type { Terminal } from './terminal';

/** Effects as they are worked out at a sample rate. */
export const withResources = (inserts: readonly PlanInsert[], rate: number): PlanInsert[] =>
  inserts.map((insert) => {
    const resource = resourceFor(effectById(insert.effect), rate, insert.values, insert.settings);
    return resource ? { ...insert, resource } : insert;
  });

async function presetFor(path: string, spec: EffectSpec): Promise<Readonly<Record<string, ParameterValue>>> {
  const preset = parsePreset(await readTextFile(path));
  const [only] = preset.effects;
  if (preset.kind !== 'effect' || !only)
    throw usage(`${path} is a preset for a chain; --preset takes one for an effect.`);
  if (only.effect !== spec.id) throw usage(`${path} is a preset for ${only.effect}, not for ${spec.id}.`);
  return only.values;
}

export interface ChosenChain {
  readonly inserts: readonly PlanInsert[];
  /** Files that effects work with, by what their settings call them. */
  readonly sounds: ReadonlyMap<string, { readonly path: string; readonly sound: Sound }>;
}

/** Resolves a setting; a sound that does not ship with the effect is given by the hash of its file. */
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
export async function chainFrom(options: Options, timing: Timing): Promise<ChosenChain> {
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
      last.values[setting.id] = normalSetting(setting, await soundIn(setting, written, sounds));
      continue;
    }
    const parameter = findParameter(last.spec, id);
    if (!parameter) {
      const ids = controlsOf(last.spec).map((p) => p.id);
      throw usage(`${last.spec.id} has no parameter ${id}; it has ${ids.join(', ')}.`);
    }
    last.values[id] = parseValue(parameter, written, timing);
  }
  const inserts = chain.map(({ spec, values }, place) => {
    const whole = completed(spec, {}, withNamedItemsOn(spec, values), timing);
    validateTimes(spec, whole, timing);
    if (whole.noteSource === 'midi') {
      throw usage(
        'noteSource cannot be midi here, where no MIDI device plays; --notes FILE.mid goes with noteSource=lane.',
      );
    }
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
export function atRate(sound: Sound, rate: number): Samples {
  const { left, right } = stereoOf(sound);
  const converted = resample(left, sound.sampleRateHz, rate)!;
  return { left: converted, right: right === left ? converted : resample(right, sound.sampleRateHz, rate)! };
}

/** The same of one that an effect works with: all four channels of one that has as many. */
function allAtRate(sound: Sound, rate: number): Samples {
  const converted = (channel: Float32Array) => resample(channel, sound.sampleRateHz, rate)!;
  const more = moreOf(sound);
  return { ...atRate(sound, rate), ...(more ? { more: [converted(more[0]), converted(more[1])] } : {}) };
}

/** The files that a chain works with, at a sample rate, by what their settings call them. */
export function soundsAtRate({ sounds }: ChosenChain, rate: number, terminal: Terminal): Map<string, Samples> {
  const converted = new Map<string, Samples>();
  for (const [id, { path, sound }] of sounds) {
    sayWhatWasChosen(path, factsOf(sound), rate, terminal, moreOf(sound) ? 4 : 2);
    converted.set(id, allAtRate(sound, rate));
  }
  return converted;
}

export const factsOf = ({ sampleRateHz, channels, unusable = 0 }: Sound): SoundFileFacts => ({
  sampleRateHz,
  channels: channels.length,
  frames: channels[0]!.length,
  unusable,
});

/**
 * Says what was decided about a file that its owner may not expect.
 * @param heard channels of it that are used
 */
export function sayWhatWasChosen(
  path: string,
  { channels, sampleRateHz, unusable }: SoundFileFacts,
  rate: number,
  terminal: Terminal,
  heard = 2,
): void {
  if (channels > heard) terminal.note(`${path} has ${channels} channels; the first two are used.`);
  if (unusable > 0)
    terminal.note(
      `${path} holds ${unusable} samples that are not numbers or lie above +120 dBFS; they are silence here.`,
    );
  if (sampleRateHz !== rate) terminal.note(`${path} is brought from ${sampleRateHz} Hz to ${rate} Hz.`);
}
