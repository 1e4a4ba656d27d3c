import { cornersOf, laneOrigin, laneParameter, setValueOf, type Corner } from '@/core/session/lanes';
import type { SessionDocument } from '@/core/session/records/document';
import type { Lane } from '@/core/session/records/lanes';
import { timingOf } from '@/core/session/records/queries';
import { useStudioState } from './StudioContext';

const NONE: readonly Corner[] = [];
const laidOut = new WeakMap<Lane, { readonly from: readonly unknown[]; readonly corners: readonly Corner[] }>();

/** The corners of a lane; the same list for as long as nothing changes that they depend on. */
export function cornersNow(document: SessionDocument, lane: Lane): readonly Corner[] {
  const source = lane.mirrorOf === null ? lane : document.lanes[lane.mirrorOf]!;
  const timing = timingOf(document);
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  const around = source === lane ? null : setValueOf(document, lane.ownerId, parameter);
  const from = [source, laneOrigin(document, source), around, timing.tempoBpm, timing.beatsPerBar];
  const known = laidOut.get(lane);
  if (known?.from.every((one, n) => one === from[n])) return known.corners;
  const corners = cornersOf(document, lane, timing);
  laidOut.set(lane, { from, corners });
  return corners;
}

/** The corners of a lane, followed; none without a lane. */
export const useCorners = (lane: Lane | undefined): readonly Corner[] =>
  useStudioState(({ document }) => (lane ? cornersNow(document, lane) : NONE));
