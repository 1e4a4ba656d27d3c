import { effectById } from '../../effects/registry';
import { completed, validateValues } from '../../effects/resolve';
import { defaultValues, type ParameterValue } from '../../effects/spec';
import { channelIn, insertAt, need, removeOwned, removeRecord, setRecord, stripIn } from '../commandHelpers';
import { channelOf, channels, stripOfInsert, timingOf } from '../records/queries';
import type { Insert, InsertInput } from '../records/inserts';
import type { Modulator } from '../records/modulators';
import type { Return, Track } from '../records/strips';
import type { SessionDocument } from '../records/document';
import { PLACE_EFFECT } from '../stagePlacement';
import type { Handlers } from './handlers';

type Values = Record<string, ParameterValue>;

export interface InsertCommands {
  'insert.add': { stripId: string; id: string; effect: string; index: number; values?: Values };
  /** Puts a strip on the stage. */
  'place.add': { stripId: string; id: string; values?: Values };
  'insert.input': { id: string; slot: string; from: InsertInput | null };
  /** Lets an effect play the notes of a strip or, given its own id, its own notes. */
  'insert.notes': { id: string; from: string | null };
  'insert.set': { id: string; values: Values };
  'insert.bypass': { id: string; bypass: boolean };
  /** Moves an insert to an index of its strip, or of another. */
  'insert.move': { id: string; to: number; stripId?: string };
  'insert.remove': { id: string };
  'chain.replace': { stripId: string; inserts: readonly Insert[] };
  'modulator.add': { modulator: Modulator };
  'modulator.set': { id: string; values: Partial<Omit<Modulator, 'id'>> };
  'modulator.remove': { id: string };
}

export const insertHandlers: Handlers<InsertCommands> = {
  'insert.add': (draft, { stripId, id, effect, index, values }) => {
    const { insertIds } = stripIn(draft, stripId);
    addInsert(draft, id, effect, values);
    insertAt(insertIds, index, id);
  },
  'place.add': (draft, { stripId, id, values }) => {
    const strip = channelIn(draft, stripId);
    if (strip.placeId !== null) removeInsert(draft, strip.placeId);
    addInsert(draft, id, PLACE_EFFECT, values);
    strip.placeId = id;
  },
  'insert.input': (draft, { id, slot, from }) => {
    const { inputs } = insertIn(draft, id);
    if (from) inputs[slot] = { ...from };
    else delete inputs[slot];
  },
  'insert.notes': (draft, { id, from }) => {
    insertIn(draft, id).notesFrom = from;
  },
  'insert.set': (draft, { id, values }) => {
    const insert = insertIn(draft, id);
    const spec = effectById(insert.effect);
    const change = validateValues(spec, values);
    Object.assign(insert.values, completed(spec, { ...insert.values }, change, timingOf(draft)));
  },
  'insert.bypass': (draft, { id, bypass }) => {
    insertIn(draft, id).bypass = bypass;
  },
  'insert.move': (draft, { id, to, stripId }) => {
    const { insertIds } = need(stripOfInsert(draft, id), `effect ${id}`);
    if (!insertIds.includes(id)) return;
    const target = stripId === undefined ? insertIds : stripIn(draft, stripId).insertIds;
    insertIds.splice(insertIds.indexOf(id), 1);
    insertAt(target, to, id);
  },
  'insert.remove': (draft, { id }) => removeInsert(draft, id),
  'chain.replace': (draft, { stripId, inserts }) => replaceChain(draft, stripId, inserts),
  'modulator.add': (draft, { modulator }) => {
    draft.modulators[modulator.id] = { ...modulator };
  },
  'modulator.set': (draft, { id, values }) => setRecord(draft.modulators, 'modulator', id, values),
  'modulator.remove': (draft, { id }) => removeRecord(draft.modulators, 'modulator', id),
};

function insertIn(draft: SessionDocument, id: string): Insert {
  return need(draft.inserts[id], `effect ${id}`);
}

function addInsert(draft: SessionDocument, id: string, effect: string, given: Values = {}): void {
  const spec = effectById(effect);
  const values = { ...defaultValues(spec), ...validateValues(spec, given) };
  draft.inserts[id] = { id, effect: spec.id, bypass: false, values, inputs: {}, notesFrom: null };
}

/** Removes an insert with its lanes, notes, comparison and modulation targets. */
export function removeInsert(draft: SessionDocument, id: string): void {
  const strip = need(stripOfInsert(draft, id), `effect ${id}`);
  const placed = channelOf(draft, strip.id);
  if (placed?.placeId === id) leaveStage(draft, placed);
  else strip.insertIds.splice(strip.insertIds.indexOf(id), 1);
  delete draft.inserts[id];
  for (const modulator of Object.values(draft.modulators)) {
    const kept = modulator.targets.filter(({ insertId }) => insertId !== id);
    if (kept.length < modulator.targets.length) modulator.targets = kept;
  }
  removeOwned(draft, id);
}

/** Takes a strip off the stage; strips that stood opposite to it stay where they are set themselves. */
function leaveStage(draft: SessionDocument, strip: Track | Return): void {
  strip.placeId = null;
  strip.oppositeOf = null;
  for (const other of channels(draft)) if (other.oppositeOf === strip.id) other.oppositeOf = null;
}

/** Replaces a strip's inserts; inserts that keep their id keep their automation. */
export function replaceChain(draft: SessionDocument, stripId: string, inserts: readonly Insert[]): void {
  const strip = stripIn(draft, stripId);
  const kept = new Set(inserts.map((insert) => insert.id));
  for (const id of [...strip.insertIds]) if (!kept.has(id)) removeInsert(draft, id);
  for (const insert of inserts) draft.inserts[insert.id] = { ...insert, values: { ...insert.values } };
  strip.insertIds = inserts.map((insert) => insert.id);
}

/** Disconnects an effect's side chains and notes from strips for which `isGone` is true. */
export function dropInputs(insert: Insert, isGone: (stripId: string) => boolean): void {
  const { id, notesFrom, inputs } = insert;
  if (notesFrom !== null && notesFrom !== id && isGone(notesFrom)) insert.notesFrom = null;
  for (const [slot, { stripId }] of Object.entries(inputs)) if (isGone(stripId)) delete inputs[slot];
}
