import { specOf } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { bandsOnto } from '@/core/session/contrast';
import type { Insert } from '@/core/session/records/inserts';
import type { SessionDocument } from '@/core/session/records/document';

/** Bands that lift or lower; cuts and notches have no opposite. */
const REVERSIBLE = ['bell', 'lowShelf', 'highShelf'];

/**
 * Lowers on another strip what an equalizer lifts, and the other way round: on an equalizer that stands there and has
 * enough bands free, or on a new one at the end.
 */
export function mirrorCommand(document: SessionDocument, insert: Insert, stripId: string, newId: string): Command {
  const spec = specOf('eq');
  const bands = Array.from({ length: spec.lists[0]!.count }, (_, n) => n + 1);
  const full = { ...defaultValues(spec), ...insert.values };
  const opposites = bands
    .filter((band) => full[`bands.${band}.on`] === true && REVERSIBLE.includes(String(full[`bands.${band}.type`])))
    .map((band) => ({
      on: true,
      gain: -(full[`bands.${band}.gain`] as number) || 0,
      ...Object.fromEntries(['type', 'frequency', 'q', 'channel'].map((id) => [id, full[`bands.${band}.${id}`]!])),
    }));
  return bandsOnto(document, stripId, opposites, newId);
}
