import { NOTE_VALUES, type Timing } from '@/core/effects/noteValues';
import { resolveValue } from '@/core/effects/resolve';
import { positionOf, valueAt } from '@/core/effects/scale';
import type { NumberParameter, ParameterValue } from '@/core/effects/spec';

/** A value on a ruler. A note value moves from note to note; a figure moves freely. */
export interface RulerValue {
  readonly parameter: NumberParameter;
  readonly value: ParameterValue;
  readonly timing: Timing;
}

/** Steps tried to find a next figure that shows another value. */
const MOST_STEPS = 50;

/** Note values inside a parameter's range at this tempo, in the order of its ruler, with their positions, 0 to 1. */
function notesOn({ parameter, timing }: Omit<RulerValue, 'value'>): { note: string; position: number }[] {
  return NOTE_VALUES.map((note) => ({ note, figure: resolveValue(parameter, note, timing) }))
    .filter(({ figure }) => figure >= parameter.min && figure <= parameter.max)
    .map(({ note, figure }) => ({ note, position: positionOf(parameter, figure) }))
    .sort((a, b) => a.position - b.position);
}

/** Position of the value on its ruler, 0 to 1. */
export function rulerPosition({ parameter, value, timing }: RulerValue): number {
  return positionOf(parameter, resolveValue(parameter, value, timing));
}

/** The note value nearest to a position. */
export function nearestNote(ruler: Omit<RulerValue, 'value'>, position: number): string {
  return notesOn(ruler).reduce((best, one) =>
    Math.abs(one.position - position) < Math.abs(best.position - position) ? one : best,
  ).note;
}

/** The value at a position: a note where the value is one, else a figure. */
export function valueNear(ruler: RulerValue, position: number): ParameterValue {
  return typeof ruler.value === 'string' ? nearestNote(ruler, position) : valueAt(ruler.parameter, position);
}

/**
 * The next value up or down.
 * @param size of the step as a part of the ruler; notes go to the next note
 */
export function steppedValue(ruler: RulerValue, direction: 1 | -1, size: number): ParameterValue {
  const { parameter, value, timing } = ruler;
  if (typeof value === 'string') {
    const notes = notesOn(ruler);
    const at = notes.findIndex(({ note }) => note === value);
    return notes[Math.max(0, Math.min(notes.length - 1, at + direction))]!.note;
  }
  const position = rulerPosition(ruler);
  const figure = resolveValue(parameter, value, timing);
  // A step too small for the figures shown goes one figure on.
  for (let steps = 1; steps < MOST_STEPS; steps++) {
    const next = valueAt(parameter, position + direction * size * steps);
    if (next !== figure) return next;
  }
  return figure;
}

/** The lowest or highest value: of the notes, where the value is one. */
export function endValue(ruler: RulerValue, end: 'low' | 'high'): ParameterValue {
  const { parameter, value } = ruler;
  const figure = end === 'low' ? parameter.min : parameter.max;
  return typeof value === 'string' ? (notesOn(ruler).at(end === 'low' ? 0 : -1)?.note ?? figure) : figure;
}
