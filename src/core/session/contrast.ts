import type { Region } from '../analysis/portrait';
import { specOf } from '../effects/registry';
import type { ParameterValue } from '../effects/spec';
import type { Command } from './commands';
import { stripOf } from './records/queries';
import type { SessionDocument } from './records/document';

type Values = Record<string, ParameterValue>;

const MOST_CUT_DB = 6;
const LEAST_CUT_DB = 2;

const places = (): number[] => Array.from({ length: specOf('eq').lists[0]!.count }, (_, n) => n + 1);

const written = (bands: readonly Values[], onto: readonly number[]): Values =>
  Object.fromEntries(
    bands.flatMap((values, n) =>
      Object.entries(values).map(([id, value]) => [`bands.${onto[n]!}.${id}`, value] as const),
    ),
  );

/** Bands that make room for a sound: each of its regions is lowered, by more where it stands out more. */
export function contrastBands(regions: readonly Region[]): Values[] {
  return regions.map(({ centreHz, fromHz, toHz, prominenceDb }) => ({
    on: true,
    type: 'bell',
    frequency: Math.round(centreHz),
    q: Number(Math.min(4, Math.max(0.5, centreHz / (toHz - fromHz))).toFixed(2)),
    gain: -Number(Math.min(MOST_CUT_DB, Math.max(LEAST_CUT_DB, prominenceDb / 2)).toFixed(1)),
    channel: 'both',
  }));
}

/** Values of an equalizer that has these bands and no others. */
export function equalizerWith(bands: readonly Values[]): Values {
  const all = places();
  return { ...Object.fromEntries(all.map((band) => [`bands.${band}.on`, false])), ...written(bands, all) };
}

/** Puts bands onto an equalizer that stands on a strip and has enough of them free, or onto a new one at the end. */
export function bandsOnto(
  document: SessionDocument,
  stripId: string,
  bands: readonly Values[],
  newId: string,
): Command {
  const { insertIds } = stripOf(document, stripId)!;
  for (const id of insertIds) {
    const there = document.inserts[id]!;
    if (there.effect !== 'eq' || there.bypass) continue;
    const free = places().filter((band) => there.values[`bands.${band}.on`] !== true);
    if (free.length >= bands.length) return { type: 'insert.set', id, values: written(bands, free) };
  }
  return {
    type: 'insert.add',
    stripId,
    id: newId,
    effect: 'eq',
    index: insertIds.length,
    values: equalizerWith(bands),
  };
}
