import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { noteValueBeats, noteValueName, noteValueSeconds, readNoteValue, type Timing } from './noteValues';
import type { NumberParameter, Parameter, ParameterValue } from './spec';
import { formatUnit, readFigure, withFigures } from './units';

const BARE = /^[+-]?[\d.]+$/;

/**
 * Reads what a person typed for a parameter: `250ms`, `0.25s`, `1/8d`, `-6dB`, `2k`, `40%`, `12 left`, `on`, the id or
 * the name of a choice. A bare number is in the parameter's own unit.
 * @param timing when given, a note value that is outside the range at this tempo is refused too
 * @param shown the value that the text takes the place of: where that was read in centimetres, a bare number is too
 * @throws KinetikonError parameter.text or parameter.range, naming the parameter, its range and what was given
 */
export function parseValue(
  parameter: Parameter,
  text: string,
  timing?: Timing,
  shown?: ParameterValue,
): ParameterValue {
  const written = text.trim();
  const lower = written.toLowerCase().replace('−', '-');
  if (parameter.kind === 'toggle') {
    if (['on', 'yes', 'true', '1'].includes(lower)) return true;
    if (['off', 'no', 'false', '0'].includes(lower)) return false;
    throw notUnderstood(parameter, written);
  }
  if (parameter.kind === 'choice') {
    const found = parameter.choices.find((one) => [one.id.toLowerCase(), one.name.toLowerCase()].includes(lower));
    if (!found) throw notUnderstood(parameter, written);
    return found.id;
  }
  if (parameter.sync) {
    const note = readNoteValue(lower);
    if (note !== undefined) {
      if (timing) validateTime(parameter, note, timing);
      return note;
    }
  }
  if (parameter.sides) {
    const sided = /^(\d+\.?\d*)?\s*(l|left|r|right|c|centre|center)$/.exec(lower);
    if (sided) {
      if (sided[2]!.startsWith('c')) return 0;
      const amount = sided[1] === undefined ? 100 : Number(sided[1]);
      return validateValue(parameter, sided[2]!.startsWith('l') ? -amount : amount);
    }
  }
  if (parameter.infiniteAtMax && /^(\+?inf(inity)?|∞)(\s*:\s*1)?$/.test(lower)) return parameter.max;
  if (parameter.silentAtMin && /^-inf(inity)?(\s*db)?$/.test(lower)) return parameter.min;
  const inCentimetres = parameter.unit === 'm' && typeof shown === 'number' && shown < 1 && BARE.test(lower);
  const figure = readFigure(parameter.unit, inCentimetres ? `${lower}cm` : lower);
  if (figure === undefined) throw notUnderstood(parameter, written);
  return validateValue(parameter, figure);
}

/**
 * Checks a value against its parameter and returns it.
 * @throws KinetikonError parameter.range, naming the parameter, its range and what was given
 */
export function validateValue(parameter: Parameter, value: unknown): ParameterValue {
  if (parameter.kind === 'toggle') {
    if (typeof value === 'boolean') return value;
  } else if (parameter.kind === 'choice') {
    if (parameter.choices.some((one) => one.id === value)) return value as string;
  } else if (typeof value === 'string') {
    if (parameter.sync && noteValueBeats(value, { beatsPerBar: 4 }) !== undefined) return value;
  } else if (typeof value === 'number' && value >= parameter.min && value <= parameter.max) {
    return value;
  }
  throw new KinetikonError(
    'parameter.range',
    `${parameter.id} takes ${describeRange(parameter)}, not ${inBothUnits(parameter, value)}.`,
    {
      kept: 'Nothing was changed.',
    },
  );
}

/** A parameter in words, with the item it belongs to: `Mix`, `Left of line 3`. */
export function parameterTitle({ id, name }: Parameter): string {
  const item = /^(\w+)s\.(\d+)\./.exec(id);
  return item ? `${name} of ${item[1]} ${item[2]}` : name;
}

/**
 * Checks that a note value comes to a time inside its parameter's range. A rate follows its note wherever that leads.
 * @throws KinetikonError parameter.range, naming the parameter, its range, the note and the tempo
 */
export function validateTime(parameter: Parameter, value: ParameterValue, timing: Timing): void {
  if (parameter.kind === 'number' && parameter.sync === 'time') validateNote(parameter, value, timing);
}

/** As `validateTime`, of times and rates alike: in a lane both lie on their ruler. */
export function validateNote(parameter: NumberParameter, value: ParameterValue, timing: Timing): void {
  const seconds = typeof value === 'string' ? noteValueSeconds(value, timing) : undefined;
  if (seconds === undefined) return;
  const figure = inOwnUnit(parameter, seconds);
  if (figure >= parameter.min && figure <= parameter.max) return;
  const range = `${formatNumber(parameter, parameter.min)} to ${formatNumber(parameter, parameter.max)}`;
  const note = noteValueName(value as string);
  throw new KinetikonError(
    'parameter.range',
    `${parameter.id} takes ${range}; ${note} at ${withFigures(timing.tempoBpm, 4)} BPM would be ${formatNumber(parameter, figure)}.`,
    { kept: 'Nothing was changed.', next: 'Choose another note value, or another tempo.' },
  );
}

function notUnderstood(parameter: Parameter, given: string): KinetikonError {
  return new KinetikonError(
    'parameter.text',
    `${parameter.id} takes ${describeRange(parameter)}, not "${quoted(given)}".`,
    {
      kept: 'Nothing was changed.',
    },
  );
}

/** True for lengths that are shown in centimetres while a bare number is in metres. */
const isShownOtherwise = ({ unit, min }: NumberParameter): boolean => unit === 'm' && min < 1;

/** A value that was refused, in the parameter's own unit and as it is shown. */
function inBothUnits(parameter: Parameter, value: unknown): string {
  if (parameter.kind !== 'number' || typeof value !== 'number' || !isShownOtherwise(parameter)) return quoted(value);
  const own = `${value} ${parameter.unit}`;
  const shown = formatNumber(parameter, value);
  return own === shown ? own : `${own} (${shown})`;
}

/** The range of a parameter, in words: `0.1 ms to 12 s or a note value such as 1/8d`. */
export function describeRange(parameter: Parameter): string {
  switch (parameter.kind) {
    case 'toggle':
      return 'on or off';
    case 'choice':
      return parameter.choices.map((one) => one.id).join(', ');
    case 'number': {
      const shown = `${formatNumber(parameter, parameter.min)} to ${formatNumber(parameter, parameter.max)}`;
      const range = isShownOtherwise(parameter)
        ? `${parameter.min} to ${parameter.max} ${parameter.unit} (${shown})`
        : shown;
      return parameter.sync ? `${range} or a note value such as 1/8d` : range;
    }
  }
}

/** A value as the interface shows it: `1/8 dotted, 536 ms`, `3.4 kHz`, `-6.0 dB`, `12 left`, `on`. */
export function formatValue(parameter: Parameter, value: ParameterValue, timing: Timing): string {
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  if (parameter.kind === 'choice') return parameter.choices.find((one) => one.id === value)?.name ?? String(value);
  if (typeof value === 'string') {
    const seconds = noteValueSeconds(value, timing);
    if (seconds === undefined || parameter.kind !== 'number') return value;
    return `${noteValueName(value)}, ${formatNumber(parameter, inOwnUnit(parameter, seconds))}`;
  }
  return parameter.kind === 'number' ? formatNumber(parameter, value) : String(value);
}

/** Seconds as the parameter's own unit counts them: milliseconds, or cycles a second. */
export function inOwnUnit(parameter: NumberParameter, seconds: number): number {
  if (parameter.sync === 'rate') return 1 / seconds;
  return parameter.unit === 'ms' ? seconds * 1000 : seconds;
}

function formatNumber(parameter: NumberParameter, value: number): string {
  if (parameter.silentAtMin && value <= parameter.min) return '-inf dB';
  if (parameter.infiniteAtMax && value >= parameter.max) return 'inf:1';
  if (parameter.sides) {
    const amount = Math.round(Math.abs(value));
    return amount === 0 ? 'centre' : `${amount} ${value < 0 ? 'left' : 'right'}`;
  }
  return formatUnit(parameter.unit, value);
}
