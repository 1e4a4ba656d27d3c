import { effectById } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { stripOf, type Insert, type SessionDocument } from '@/core/session/records';

/** Bands that lift or lower; cuts and notches have no opposite. */
const REVERSIBLE = ['bell', 'lowShelf', 'highShelf'];

/**
 * Lowers on another strip what an equalizer lifts, and the other way round: on an equalizer that stands there and has
 * enough bands free, or on a new one at the end.
 */
export function mirrorCommand(document: SessionDocument, insert: Insert, stripId: string, newId: string): Command {
  const spec = effectById('eq');
  const bands = Array.from({ length: spec.lists[0]!.count }, (_, n) => n + 1);
  const full = { ...defaultValues(spec), ...insert.values };
  const opposites = bands
    .filter((band) => full[`bands.${band}.on`] === true && REVERSIBLE.includes(String(full[`bands.${band}.type`])))
    .map((band) => ({
      on: true,
      gain: -(full[`bands.${band}.gain`] as number) || 0,
      ...Object.fromEntries(['type', 'frequency', 'q', 'channel'].map((id) => [id, full[`bands.${band}.${id}`]!])),
    }));
  const onto = (free: readonly number[]) =>
    Object.fromEntries(
      opposites.flatMap((values, n) =>
        Object.entries(values).map(([id, value]) => [`bands.${free[n]!}.${id}`, value] as const),
      ),
    );
  const { insertIds } = stripOf(document, stripId)!;
  for (const id of insertIds) {
    const there = document.inserts[id]!;
    if (there.effect !== 'eq' || there.bypass) continue;
    const free = bands.filter((band) => there.values[`bands.${band}.on`] !== true);
    if (free.length >= opposites.length) return { type: 'insert.set', id, values: onto(free) };
  }
  const off = Object.fromEntries(bands.map((band) => [`bands.${band}.on`, false]));
  const values = { ...off, ...onto(bands) };
  return { type: 'insert.add', stripId, id: newId, effect: 'eq', index: insertIds.length, values };
}
