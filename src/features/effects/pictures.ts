import type { Echogram } from '@/core/analysis/echogram';
import type { Picture } from '@/core/analysis/pictures';
import { findEffect } from '@/core/effects/registry';
import { resolveValue } from '@/core/effects/resolve';
import { findParameter } from '@/core/effects/spec';
import type { PlanInsert } from '@/core/engine/plan';
import { compileInserts, timingOf } from '@/core/session/compile';
import type { Insert, SessionDocument } from '@/core/session/records';
import { useStudioState } from '../session/StudioContext';
import { useTask } from './useTask';

/** The chain as it stands, unbypassed where asked, without what moves it over time. */
function chainOf(document: SessionDocument, insertIds: readonly string[], alone: boolean): PlanInsert[] {
  return compileInserts(
    document,
    insertIds.filter((id) => document.inserts[id]),
  ).map((one) => ({ ...one, bypass: alone ? false : one.bypass, curves: [], modulations: [] }));
}

/** Lines of a delay that are in use, from 1. */
export function linesInUse(insert: Insert): number[] {
  const list = findEffect(insert.effect)!.lists.find(({ id }) => id === 'lines');
  const used = (line: number) => insert.values[`lines.${line}.on`] ?? line === 1;
  return list ? Array.from({ length: list.count }, (_, n) => n + 1).filter(used) : [];
}

/** The same effect with only one of its lines heard, for each line in use. */
function lineByLine(insert: Insert, one: PlanInsert): PlanInsert[][] {
  const { parameters } = findEffect(insert.effect)!;
  const lines = linesInUse(insert);
  return lines.map((line) => {
    const values = one.values.map((value, index) => {
      const { id } = parameters[index]!;
      return id.endsWith('.solo') && id.startsWith('lines.') ? (id === `lines.${line}.solo` ? 1 : 0) : value;
    });
    return [{ ...one, values }];
  });
}

/**
 * Impulse responses from the engine: of one effect, of each line of a delay, or of a whole chain.
 * @param insertIds one id, or those of a chain
 */
export function useEchograms(
  insertIds: readonly string[],
  split: boolean,
  seconds: number,
  slots: number,
): readonly Echogram[] | null {
  const document = useStudioState(({ document }) => document);
  const alone = insertIds.length === 1;
  const chain = chainOf(document, insertIds, alone);
  const insert = document.inserts[insertIds[0] ?? ''];
  const lines = split && alone && insert ? lineByLine(insert, chain[0]!) : [];
  const chains = lines.length > 1 ? lines : [chain];
  return useTask<'echogram'>({
    kind: 'echogram',
    chains,
    sampleRateHz: document.session.sampleRateHz,
    seconds,
    slots,
  });
}

/** Seconds of one cycle of an effect that sweeps; of a delay's slowest line that sways. */
function cycleSeconds(document: SessionDocument, insert: Insert): number | null {
  const spec = findEffect(insert.effect)!;
  const timing = timingOf(document);
  const rateOf = (id: string) => {
    const parameter = findParameter(spec, id);
    return parameter ? resolveValue(parameter, insert.values[id] ?? parameter.default, timing) : null;
  };
  const rate = rateOf('rate');
  if (rate !== null) return 1 / rate;
  const sway = linesInUse(insert)
    .filter((line) => Number(insert.values[`lines.${line}.modDepth`] ?? 0) > 0)
    .map((line) => rateOf(`lines.${line}.modRate`)!);
  return sway.length > 0 ? 1 / Math.min(...sway) : null;
}

/** What the engine makes of a test sound through an effect; null for effects that have no such picture. */
export function usePicture(insert: Insert, kind = findEffect(insert.effect)!.picture): Picture | null {
  const document = useStudioState(({ document }) => document);
  const { beatsPerBar, tempoBpm } = timingOf(document);
  const cycle = cycleSeconds(document, insert);
  const twoBars = (2 * beatsPerBar * 60) / tempoBpm;
  const seconds =
    kind === 'comb' ? (cycle ?? 1) : kind === 'delays' ? Math.min(30, 2 * (cycle ?? twoBars / 2)) : twoBars;
  return useTask<'picture'>(
    kind === 'echogram' || !document.inserts[insert.id]
      ? null
      : {
          kind: 'picture',
          picture: kind,
          inserts: chainOf(document, [insert.id], true),
          sampleRateHz: document.session.sampleRateHz,
          seconds,
        },
  );
}
