import type { Echogram } from '@/core/analysis/echogram';
import type { Picture } from '@/core/analysis/pictures';
import type { RoomMeasures } from '@/core/dsp/decay';
import { findEffect } from '@/core/effects/registry';
import { figureOf } from '@/core/effects/resolve';
import { findParameter } from '@/core/effects/spec';
import type { ParameterValues } from '@/core/effects/values';
import type { PlanInsert } from '@/core/engine/plan';
import { compileInserts } from '@/core/session/compile/inserts';
import type { Insert } from '@/core/session/records/inserts';
import type { SessionDocument } from '@/core/session/records/document';
import { timingOf } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../../session/StudioContext';
import type { WorkState } from '../../session/useWork';
import { useTask, useTaskState } from './useTask';

/** The chain as it stands, unbypassed where asked, without what moves it over time. */
function chainOf(document: SessionDocument, insertIds: readonly string[], alone: boolean): PlanInsert[] {
  return compileInserts(
    document,
    insertIds.filter((id) => document.inserts[id]),
  ).map((one) => ({ ...standing(one), bypass: alone ? false : one.bypass }));
}

/** An effect without what moves it over time. */
export const standing = (insert: PlanInsert): PlanInsert => ({ ...insert, bypass: false, curves: [], modulations: [] });

/** Lines of a delay that are in use, from 1. */
export function linesInUse(insert: Insert): number[] {
  const list = findEffect(insert.effect)!.lists.find(({ id }) => id === 'lines');
  const used = (line: number) => insert.values[`lines.${line}.on`] ?? line === 1;
  return list ? Array.from({ length: list.count }, (_, n) => n + 1).filter(used) : [];
}

/** Seconds after which an echogram ends at the latest: eight bars. */
export function longestSpan(document: SessionDocument): number {
  const { beatsPerBar, tempoBpm } = timingOf(document);
  return Math.min(24, (8 * beatsPerBar * 60) / tempoBpm);
}

const SLOTS = 4000;

export interface Echograms {
  readonly all: Echogram;
  /** One for each line in use, where the effect has lines. */
  readonly lines: readonly Echogram[];
}

/** The document, followed as far as pictures of effects show it: their settings, tempo, metre and rate. */
function useDrawn(insertIds: readonly string[]): SessionDocument {
  const studio = useStudio();
  useStudioState(({ document }) => [document.session, ...insertIds.map((id) => document.inserts[id])]);
  return studio.state.document;
}

/** The document with an effect as it could be, whether it is in it or not. */
const withInsert = (document: SessionDocument, insert: Insert): SessionDocument => ({
  ...document,
  inserts: { ...document.inserts, [insert.id]: insert },
});

const echogramOf = (
  document: SessionDocument,
  insertIds: readonly string[],
  alone: boolean,
  apart: boolean,
  seconds: number,
) => ({
  kind: 'echogram' as const,
  inserts: chainOf(document, insertIds, alone),
  apart,
  sampleRateHz: document.session.sampleRateHz,
  seconds,
  slots: SLOTS,
});

/**
 * Impulse responses from the engine: of one effect and its lines, or of a whole chain.
 * @param insertIds one id, or those of a chain
 * @param span seconds, up to the longest span
 */
export function useEchograms(insertIds: readonly string[], span: number): Echograms | null {
  const document = useDrawn(insertIds);
  const alone = insertIds.length === 1;
  const insert = document.inserts[insertIds[0] ?? ''];
  const apart = alone && insert !== undefined && linesInUse(insert).length > 0;
  const found = useTask(echogramOf(document, insertIds, alone, apart, span));
  return found && { all: found[0]!, lines: found.slice(1) };
}

/** The impulse response of an effect at other values than it has. */
export function useEchogramAt(insert: Insert, values: ParameterValues, span: number): Echogram | null {
  const drawn = useDrawn([insert.id]);
  const document = withInsert(drawn, { ...insert, values: { ...insert.values, ...values } });
  const found = useTask(echogramOf(document, [insert.id], true, false, span));
  return found?.[0] ?? null;
}

/** Seconds of one cycle of an effect that moves. */
function cycleSeconds(document: SessionDocument, insert: Insert): number | null {
  const spec = findEffect(insert.effect)!;
  const figure = (id: string) => figureOf(spec, insert.values, timingOf(document), id);
  const hz = spec.cyclesHz ? spec.cyclesHz(figure) : findParameter(spec, 'rate') ? figure('rate') : null;
  return hz && 1 / hz;
}

/** Picture of a test sound through an effect; null for effects without one. */
export function usePicture(insert: Insert, kind = findEffect(insert.effect)!.picture): Picture | null {
  const document = withInsert(useDrawn([insert.id]), insert);
  const { beatsPerBar, tempoBpm } = timingOf(document);
  const cycle = cycleSeconds(document, insert);
  const twoBars = (2 * beatsPerBar * 60) / tempoBpm;
  const seconds =
    kind === 'comb' ? (cycle ?? 1) : kind === 'delays' ? Math.min(30, 2 * (cycle ?? twoBars / 2)) : twoBars;
  return useTask<'picture'>(
    kind === 'echogram'
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

/** The room that an effect makes, measured on its wet sound alone. */
export function useRoom(insert: Insert): WorkState<RoomMeasures> {
  const document = useDrawn([insert.id]);
  const spec = findEffect(insert.effect)!;
  const mix = spec.parameters.findIndex(({ id }) => id === 'mix');
  const inserts = chainOf(document, [insert.id], true).map((one) => ({
    ...one,
    values: one.values.map((value, place) => (place === mix ? 100 : value)),
  }));
  return useTaskState<'room'>(
    inserts.length === 0 ? null : { kind: 'room', inserts, sampleRateHz: document.session.sampleRateHz },
  );
}
