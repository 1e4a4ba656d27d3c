import type { Timing } from '@/core/effects/noteValues';
import { laneOf } from '@/core/session/lanes';
import { timingOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import type { Lane } from '@/core/session/records/lanes';
import { attachedTo, type Attached } from './modulating';
import { useStudioState } from './StudioContext';

/** Parts of the document, each followed by itself: what has not changed shows nothing anew. */

export const useTiming = (): Timing => useStudioState(({ document }) => timingOf(document));

export const useInsert = (insertId: string): Insert | undefined =>
  useStudioState(({ document }) => document.inserts[insertId]);

export const useLane = (ownerId: string, parameterId: string): Lane | undefined =>
  useStudioState(({ document }) => laneOf(document, ownerId, parameterId));

/** The modulators of a parameter of an effect; null for what is on no effect. */
export function useAttached(ownerId: string, parameterId: string): readonly Attached[] | null {
  const [onEffect, ...parts] = useStudioState(({ document }) => [
    document.inserts[ownerId] !== undefined,
    ...attachedTo(document, ownerId, parameterId).flatMap(({ modulator, target }) => [modulator, target] as const),
  ]);
  if (!onEffect) return null;
  return Array.from({ length: parts.length / 2 }, (_, n) => ({
    modulator: parts[2 * n] as Attached['modulator'],
    target: parts[2 * n + 1] as Attached['target'],
  }));
}
