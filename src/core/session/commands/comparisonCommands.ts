import { removeLane, stripIn } from '../commandHelpers';
import { channelOf } from '../records/queries';
import type { Comparison, Slot, SlotName } from '../records/inserts';
import type { SessionDocument } from '../records/document';
import type { Handlers } from './handlers';
import { dropInputs, replaceChain } from './insertCommands';

export interface ComparisonCommands {
  'comparison.choose': { id: string; slot: SlotName };
  'comparison.remove': { id: string };
}

export const comparisonHandlers: Handlers<ComparisonCommands> = {
  'comparison.choose': (draft, { id, slot }) => chooseSlot(draft, id, slot),
  'comparison.remove': (draft, { id }) => {
    delete draft.comparisons[id];
  },
};

const deepCopy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** The inserts and lanes that a slot stores, of an effect or of a strip's whole chain. */
function contentsOf(draft: SessionDocument, id: string): Slot {
  const ids = draft.inserts[id] ? [id] : stripIn(draft, id).insertIds;
  return {
    inserts: ids.map((one) => deepCopy(draft.inserts[one]!)),
    lanes: Object.values(draft.lanes)
      .filter((lane) => ids.includes(lane.ownerId))
      .map(deepCopy),
  };
}

/** Stores the current settings in their slot and loads another; an empty slot begins as a copy of the current one. */
function chooseSlot(draft: SessionDocument, id: string, slot: SlotName): void {
  const empty: Comparison = { id, current: 'A', slots: { A: null, B: null, C: null, D: null } };
  const comparison = (draft.comparisons[id] ??= empty);
  const current = contentsOf(draft, id);
  const next = (slot === comparison.current ? null : comparison.slots[slot]) ?? current;
  const slots = { ...comparison.slots, [comparison.current]: current, [slot]: next };
  for (const lane of current.lanes) removeLane(draft, lane.id);
  // Copied, since a later command of the same step may change the effect but not its slot. Strips may have gone meanwhile.
  const { inserts, lanes } = deepCopy(next);
  for (const insert of inserts) dropInputs(insert, (stripId) => !channelOf(draft, stripId));
  if (draft.inserts[id]) draft.inserts[id] = inserts[0]!;
  else replaceChain(draft, id, inserts);
  for (const lane of lanes) {
    const { mirrorOf } = lane;
    draft.lanes[lane.id] = mirrorOf !== null && !draft.lanes[mirrorOf] ? { ...lane, mirrorOf: null } : lane;
  }
  draft.comparisons[id] = { id, current: slot, slots };
}
