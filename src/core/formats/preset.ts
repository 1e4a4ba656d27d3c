import '../yupLocale';
import * as yup from 'yup';
import { effectById } from '../effects/registry';
import { validateValues } from '../effects/resolve';
import type { ParameterValue } from '../effects/spec';
import { KinetikonError, messageOf } from '../errors';
import { readBoundedJson } from './boundedJson';
import { shortText } from '../session/fields';

export const PRESET_FORMAT = 'kinetikon.preset';
export const PRESET_VERSION = 1;
export const MAXIMUM_PRESET_BYTES = 1024 * 1024;
const MOST_EFFECTS = 32;

/** The settings of one effect within a preset. */
export interface PresetEffect {
  readonly effect: string;
  readonly bypass: boolean;
  readonly values: Readonly<Record<string, ParameterValue>>;
}

/** The settings of one effect or of a whole chain, with what they are called and for. */
export interface PresetFile {
  readonly format: typeof PRESET_FORMAT;
  readonly version: typeof PRESET_VERSION;
  readonly kind: 'effect' | 'chain';
  readonly name: string;
  readonly tags: readonly string[];
  readonly effects: readonly PresetEffect[];
}

export const NAME_LENGTH = 80;
export const TAG_LENGTH = 40;
export const MOST_TAGS = 12;

const schema = yup
  .object({
    format: yup.string().strict().required().oneOf([PRESET_FORMAT]),
    version: yup.number().strict().required().integer().min(1),
    kind: yup.string().strict().required().oneOf(['effect', 'chain']),
    name: shortText(NAME_LENGTH).trim().required(),
    tags: yup.array(shortText(TAG_LENGTH).trim().required()).strict().required().max(MOST_TAGS),
    effects: yup
      .array(
        yup
          .object({
            effect: yup.string().strict().required(),
            bypass: yup.boolean().strict().default(false),
            values: yup.object().strict().required(),
          })
          .noUnknown()
          .required(),
      )
      .strict()
      .required()
      .max(MOST_EFFECTS),
  })
  .noUnknown()
  .required();

/** The first presets held an effect and its values and nothing else. */
function fromFirst(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || 'format' in value || !('effect' in value)) return value;
  const { effect, values, ...rest } = value as Record<string, unknown>;
  const effects = [{ effect, bypass: false, values }];
  return {
    format: PRESET_FORMAT,
    version: PRESET_VERSION,
    kind: 'effect',
    name: 'Unnamed',
    tags: [],
    effects,
    ...rest,
  };
}

const isNewer = (version: unknown): version is number => typeof version === 'number' && version > PRESET_VERSION;

/**
 * Checks what a preset file holds.
 * @throws KinetikonError preset.invalid, preset.newer, effect.unknown, parameter.unknown, parameter.range
 */
export function readPreset(value: unknown): PresetFile {
  const refusal = (message: string, cause?: unknown) =>
    new KinetikonError('preset.invalid', message, { kept: 'Nothing was changed.', cause });
  if (typeof value === 'object' && value !== null && 'version' in value && isNewer(value.version)) {
    throw new KinetikonError('preset.newer', `This preset was written by a newer version (${value.version}).`, {
      kept: 'Nothing was changed.',
      next: 'Open it with that version.',
    });
  }
  let preset: yup.InferType<typeof schema>;
  try {
    preset = schema.validateSync(fromFirst(value), { strict: true });
  } catch (error) {
    throw refusal(
      `This is not a preset: ${error instanceof yup.ValidationError ? error.errors[0] : 'unreadable'}.`,
      error,
    );
  }
  if (preset.kind === 'effect' && preset.effects.length !== 1) {
    throw refusal(`A preset for one effect holds one, not ${preset.effects.length}.`);
  }
  const effects = preset.effects.map(({ effect, bypass, values }) => ({
    effect,
    bypass: bypass ?? false,
    values: validateValues(effectById(effect), values as Record<string, unknown>),
  }));
  return { ...(preset as unknown as PresetFile), effects };
}

/** Reads a preset from the text of its file. */
export function parsePreset(text: string): PresetFile {
  let value: unknown;
  try {
    value = readBoundedJson(text, MAXIMUM_PRESET_BYTES);
  } catch (error) {
    throw new KinetikonError('preset.invalid', `This is not a preset. ${messageOf(error)}`, {
      kept: 'Nothing was changed.',
      cause: error,
    });
  }
  return readPreset(value);
}

export function writePreset(preset: PresetFile): string {
  return `${JSON.stringify(preset, null, 2)}\n`;
}
