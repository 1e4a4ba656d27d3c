import { effectById } from '@/core/effects/registry';
import type { Command } from '@/core/session/commands';
import { stripOf, type Insert, type SessionDocument } from '@/core/session/records';

/** Bands that lift or lower; cuts and notches have no opposite. */
const REVERSIBLE = ['bell', 'lowShelf', 'highShelf'];

/** An equalizer at the end of another strip that lowers what this one lifts, and the other way round. */
export function mirrorCommand(document: SessionDocument, insert: Insert, stripId: string, newId: string): Command {
  const { count } = effectById('eq').lists[0]!;
  const values: Insert['values'] = {};
  for (let band = 1; band <= count; band++) {
    const at = (id: string) => insert.values[`bands.${band}.${id}`]!;
    for (const id of ['type', 'frequency', 'q', 'channel']) values[`bands.${band}.${id}`] = at(id);
    values[`bands.${band}.on`] = at('on') === true && REVERSIBLE.includes(String(at('type')));
    values[`bands.${band}.gain`] = -(at('gain') as number) || 0;
  }
  const index = stripOf(document, stripId)!.insertIds.length;
  return { type: 'insert.add', stripId, id: newId, effect: 'eq', index, values };
}
