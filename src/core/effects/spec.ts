import type { MeterSpec } from './meters';
import type { Setting } from './settings';
import type { Unit } from './units';
import type { Needs, ParameterValue, ParameterValues } from './values';

/**
 * The description of an effect from which everything outside its kernel follows: controls, help, command-line options,
 * validation, automation, presets and documentation.
 */

interface ParameterBase {
  /** The contract: command line, presets and sessions use it. In a list: `lines.1.feedback`. */
  readonly id: string;
  readonly name: string;
  /** One plain line. */
  readonly help: string;
  /** Heading under which the control stands. */
  readonly group: string;
  readonly needs?: Needs;
}

export interface NumberParameter extends ParameterBase {
  readonly kind: 'number';
  readonly unit: Unit;
  readonly min: number;
  readonly max: number;
  readonly default: number | string;
  /** Scale of the ruler: linear, logarithmic, decibels with more room near 0 dB, or a power law with more room near 0. */
  readonly scale: 'linear' | 'log' | 'level' | 'fine';
  /** Values may also be note values such as `1/8d`, which follow the tempo, as a time or as a rate. */
  readonly sync?: 'time' | 'rate';
  /** The lowest value means silence, minus infinity decibels. */
  readonly silentAtMin?: boolean;
  /** The highest value means without end: a ratio that lets nothing more through. */
  readonly infiniteAtMax?: boolean;
  /** Read and written as left, centre and right. */
  readonly sides?: boolean;
  /** The toggle that switches just this on and off; both are shown as one control. */
  readonly switchedBy?: string;
}

export interface ToggleParameter extends ParameterBase {
  readonly kind: 'toggle';
  readonly default: boolean;
}

export interface ChoiceParameter extends ParameterBase {
  readonly kind: 'choice';
  readonly default: string;
  readonly choices: readonly { readonly id: string; readonly name: string }[];
}

export type Parameter = NumberParameter | ToggleParameter | ChoiceParameter;

export type { ParameterValue, ParameterValues };

export interface Preset {
  readonly id: string;
  readonly name: string;
  /** Purpose under which the preset is offered. */
  readonly purpose: string;
  /** One line on what to listen for. */
  readonly help?: string;
  /** Other words of the trade that find it, apart by spaces. */
  readonly synonyms?: string;
  readonly values: ParameterValues;
}

export interface ListSpec {
  readonly id: string;
  /** Name of one item; `Line` gives `Line 1`. */
  readonly itemName: string;
  readonly count: number;
  /** The toggle that puts an item to use, where items can be out of use. */
  readonly switchedBy?: string;
  readonly parameters: readonly Parameter[];
  /** Defaults of single items that differ from those of the table, in order. */
  readonly itemDefaults?: readonly ParameterValues[];
}

export interface InputSpec {
  /** The contract: sessions name it. */
  readonly id: string;
  readonly name: string;
  /** One plain line. */
  readonly help: string;
  /** Heading under which it is chosen. */
  readonly group: string;
  readonly needs?: Needs;
}

/** Families of effects, in the order in which they are offered. */
export const FAMILIES = [
  { id: 'space', name: 'Space' },
  { id: 'time', name: 'Time' },
  { id: 'movement', name: 'Movement' },
  { id: 'pitch', name: 'Pitch and voices' },
  { id: 'stereo', name: 'Stereo' },
  { id: 'instruments', name: 'Instruments' },
  { id: 'tone', name: 'Tone' },
  { id: 'level', name: 'Level' },
  { id: 'tools', name: 'Tools' },
] as const;

export type Family = (typeof FAMILIES)[number]['id'];

export interface EffectSpec {
  readonly id: string;
  /**
   * Version of its output, 1 if not given. It is raised whenever the same values give other bits, so that prints made
   * with the effect are rendered again; `render.json` beside the spec holds it to that.
   */
  readonly version?: number;
  readonly name: string;
  readonly family: Family;
  /** One sentence on what it does. */
  readonly purpose: string;
  /** Other words of the trade that find it, apart by spaces. */
  readonly synonyms?: string;
  /** All parameters in kernel order, list items spelled out. */
  readonly parameters: readonly Parameter[];
  readonly lists: readonly ListSpec[];
  /** Settings besides the parameters, which are no numbers on a ruler. */
  readonly settings?: readonly Setting[];
  /** The three or four parameters shown first and in the chain. */
  readonly main: readonly string[];
  readonly presets: readonly Preset[];
  /** Side-chain inputs. */
  readonly inputs?: readonly InputSpec[];
  readonly picture: PictureKind;
  /** Meters that the kernel writes, in this order. */
  readonly meters?: readonly MeterSpec[];
  /** True if it plays notes: those of its strip, its own, or another's. */
  readonly playsNotes?: boolean;
  /** True if its notes sound without input; it is not suspended while it has any. */
  readonly soundsAlone?: boolean;
  /** True if it plays notes at these values, for effects that do so only at some. */
  readonly usesNotes?: (values: ParameterValues) => boolean;
  /** True if it reduces the level at these values, for effects with a reduction meter that do so only at some. */
  readonly reduces?: (values: ParameterValues) => boolean;
  /**
   * Rate of its movement in Hz, if that is not its parameter `rate`; null while nothing moves.
   * @param figure a value in its parameter's own unit at the session's tempo, 0 or 1 for a switch
   */
  readonly cyclesHz?: (figure: (id: string) => number) => number | null;
  /** Values of its finest quality, for bounces that ask for it. */
  readonly finest?: ParameterValues;
  /** True if it is offered first for returns. */
  readonly suitsReturns?: boolean;
  /**
   * Its resource is prepared from its setting of kind `sound` and from these parameters, by `prepare.ts` in its folder,
   * outside of the audio thread.
   */
  readonly prepares?: { readonly from: readonly string[] };
  /**
   * Constraints between its values, besides the range of each.
   * @param figure a value in its parameter's own unit at the session's tempo
   * @returns the fault, naming the parameter, its range and the value; null if there is none
   */
  readonly refuse?: (figure: (id: string) => number) => string | null;
  /**
   * Further values that follow from a change made by hand.
   * @param before the values before the change, without defaults
   * @param figure a value after the change, in its parameter's own unit at the session's tempo
   */
  readonly completes?: (
    before: ParameterValues,
    change: ParameterValues,
    figure: (id: string) => number,
  ) => ParameterValues;
  /** Parameters that "exaggerate" turns up, those that set the amount of the effect; `lines.*.` is every line. */
  readonly exaggerates?: readonly string[];
}

/**
 * Kinds of pictures, all drawn from the engine's response to a test sound: repeats over time, magnitude over
 * frequency, output over input level, output over input sample, gain over time, the course of a burst, magnitude over
 * frequency at each place of a sweep, or delays over time.
 */
export type PictureKind =
  'echogram' | 'response' | 'levels' | 'hysteresis' | 'shape' | 'motion' | 'burst' | 'comb' | 'delays';

export interface EffectDefinition extends Omit<EffectSpec, 'parameters' | 'lists'> {
  readonly lists?: readonly ListSpec[];
  readonly parameters: readonly Parameter[];
}

/** Spells out the lists of a definition and checks it; a mistake here is a programmer's and throws. */
export function defineEffect(definition: EffectDefinition): EffectSpec {
  const lists = definition.lists ?? [];
  const parameters = [
    ...lists.flatMap((list) =>
      Array.from({ length: list.count }, (_, item) =>
        list.parameters.map((parameter) =>
          inItem(withDefault(parameter, list.itemDefaults?.[item]?.[parameter.id]), `${list.id}.${item + 1}.`),
        ),
      ).flat(),
    ),
    ...definition.parameters,
  ];
  const controls = controlsOf({ ...definition, parameters });
  const ids = new Set(controls.map(({ id }) => id));
  if (ids.size !== controls.length) throw new Error(`${definition.id}: two parameters share an id`);
  const needed = parameters.flatMap((parameter) => [
    ...(parameter.needs ? [parameter.needs.id] : []),
    ...(parameter.kind === 'number' && parameter.switchedBy ? [parameter.switchedBy] : []),
  ]);
  for (const id of [
    ...needed,
    ...definition.main,
    ...(definition.exaggerates ?? []).map((pattern) => pattern.replace('*', '1')),
    ...definition.presets.flatMap((preset) => Object.keys(preset.values)),
  ]) {
    if (!ids.has(id)) throw new Error(`${definition.id}: no parameter ${id}`);
  }
  return { ...definition, lists, parameters };
}

function withDefault(parameter: Parameter, value: ParameterValue | undefined): Parameter {
  return value === undefined ? parameter : ({ ...parameter, default: value } as Parameter);
}

function inItem(parameter: Parameter, prefix: string): Parameter {
  const { needs } = parameter;
  return { ...parameter, id: prefix + parameter.id, ...(needs ? { needs: { ...needs, id: prefix + needs.id } } : {}) };
}

/** True if a parameter, or an input, has an effect at these values. */
export function isActive({ needs }: Pick<Control, 'needs'>, values: ParameterValues): boolean {
  if (!needs) return true;
  const value = values[needs.id];
  return 'oneOf' in needs ? value !== undefined && needs.oneOf.includes(value) : value !== needs.not;
}

const byId = new WeakMap<EffectSpec, ReadonlyMap<string, Parameter>>();

/** Whatever of an effect can be set. */
export type Control = Parameter | Setting;

export function controlsOf({ parameters, settings = [] }: Pick<EffectSpec, 'parameters' | 'settings'>): Control[] {
  return [...parameters, ...settings];
}

export function findSetting(spec: EffectSpec, id: string): Setting | undefined {
  return spec.settings?.find((one) => one.id === id || one.formerId === id);
}

export function findParameter(spec: EffectSpec, id: string): Parameter | undefined {
  let parameters = byId.get(spec);
  if (!parameters) byId.set(spec, (parameters = new Map(spec.parameters.map((one) => [one.id, one]))));
  return parameters.get(id);
}

/** Initial values on a return: the wet signal alone, if the effect has a mix. */
export function wetValues(spec: EffectSpec): Record<string, ParameterValue> {
  return findParameter(spec, 'mix') ? { mix: 100 } : {};
}

/**
 * The values, with every item of a list that they say something about switched on, unless they say themselves whether
 * it is: who names line 2 wants to hear it.
 */
export function withNamedItemsOn(spec: EffectSpec, values: ParameterValues): ParameterValues {
  const named = spec.lists.flatMap(({ id, count, switchedBy }) =>
    switchedBy === undefined
      ? []
      : Array.from({ length: count }, (_, item) => `${id}.${item + 1}.`)
          .filter((prefix) => Object.keys(values).some((one) => one.startsWith(prefix)))
          .map((prefix) => [prefix + switchedBy, true] as const),
  );
  return { ...Object.fromEntries(named), ...values };
}

export function defaultValues(spec: EffectSpec): Record<string, ParameterValue> {
  return Object.fromEntries(controlsOf(spec).map((one) => [one.id, one.default]));
}

type Written<T> = Omit<T, 'kind' | 'group'> & { group?: string };

/** Writers of parameters, so that a table of them reads as a table. */
export const number = (p: Written<NumberParameter>): NumberParameter => ({ group: 'Main', ...p, kind: 'number' });
export const toggle = (p: Written<ToggleParameter>): ToggleParameter => ({ group: 'Main', ...p, kind: 'toggle' });
export const choice = (p: Written<ChoiceParameter>): ChoiceParameter => ({ group: 'Main', ...p, kind: 'choice' });

/** Adds one heading to several parameters. */
export function group<T extends Parameter>(name: string, parameters: readonly T[]): T[] {
  return parameters.map((parameter) => ({ ...parameter, group: name }));
}

/** The balance of a sound and what is made of it sample by sample: both are alike, so equal power would bulge. */
export const blendParameter = (): NumberParameter =>
  number({
    id: 'mix',
    name: 'Mix',
    unit: '%',
    min: 0,
    max: 100,
    default: 100,
    scale: 'linear',
    help: 'Balance of the untouched and the treated sound; 100 % is the treated one alone.',
  });

/** The width of a wet signal. */
export const widthParameter = (help: string): NumberParameter =>
  number({ id: 'width', name: 'Width', unit: '%', min: 0, max: 100, default: 100, scale: 'linear', help });

/** The dry and wet balance every effect with a wet path has; equal power. */
export const mixParameter = (byDefault: number): NumberParameter =>
  number({
    id: 'mix',
    name: 'Mix',
    unit: '%',
    min: 0,
    max: 100,
    default: byDefault,
    scale: 'linear',
    help: 'Balance of the dry and the wet sound at equal power; 100 % is wet alone.',
  });
