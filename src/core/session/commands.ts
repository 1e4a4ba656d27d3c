import { current, enablePatches, produce, produceWithPatches } from 'immer';
import { applyChanges, byPoints, validateTouched, type Change } from './changes';
import { effectById } from '../effects/registry';
import { completed, validateValues } from '../effects/resolve';
import { defaultValues, type ParameterValue } from '../effects/spec';
import { KinetikonError } from '../errors';
import {
  channels,
  MAIN_ID,
  channelOf,
  newReturn,
  newTrack,
  stripOf,
  stripOfInsert,
  timingOf,
  type Asset,
  type Clip,
  type Comparison,
  type Insert,
  type InsertInput,
  type Lane,
  type Modulator,
  type Note,
  type Print,
  type PrintRecipe,
  type Return,
  type Section,
  type Send,
  type SessionDocument,
  type SessionRecord,
  type Slot,
  type SlotName,
  type Strip,
  type Track,
} from './records';
import { duplicateClips, dropUnusedPrints, removeClip, removePrint, splitClip, unlink } from './clipEdits';
import { forget, need, removeLane } from './commandHelpers';
import { PLACE_EFFECT } from './stagePlacement';
import { isReferred, placeLinked } from './prints';
import { deleteTime, insertTime, type TimeEdit } from './timeEdits';

enablePatches();

/** Everything that can be done to a document. Ids of new records are chosen by the caller. */
export type Command =
  | { type: 'session.set'; values: Partial<Omit<SessionRecord, 'trackIds' | 'returnIds'>> }
  | { type: 'section.add'; section: Section }
  | { type: 'section.set'; id: string; values: Partial<Omit<Section, 'id'>> }
  | { type: 'section.remove'; id: string }
  | { type: 'track.add'; id: string; name: string }
  | { type: 'return.add'; id: string; name: string; role: Return['role'] }
  | { type: 'strip.set'; id: string; values: Partial<Omit<Track, 'id' | 'insertIds'>> }
  | { type: 'strip.move'; id: string; to: number }
  | { type: 'strip.remove'; id: string }
  | { type: 'send.add'; send: Send }
  | { type: 'send.set'; id: string; values: Partial<Omit<Send, 'id'>> }
  | { type: 'send.remove'; id: string }
  | { type: 'asset.add'; asset: Asset }
  /** Lets a sound go that nothing refers to. */
  | { type: 'asset.drop'; id: string }
  | { type: 'clip.add'; clip: Clip }
  | { type: 'clip.set'; id: string; values: Partial<Omit<Clip, 'id'>> }
  | { type: 'clip.split'; id: string; atBeat: number; newId: string }
  | { type: 'clip.duplicate'; copies: readonly { id: string; newId: string }[] }
  | { type: 'clip.remove'; ids: readonly string[] }
  /** Time of all tracks. */
  | ({ type: 'time.insert' | 'time.delete' } & TimeEdit)
  | {
      type: 'insert.add';
      stripId: string;
      id: string;
      effect: string;
      index: number;
      values?: Record<string, ParameterValue>;
    }
  /** Puts a strip on the stage. */
  | { type: 'place.add'; stripId: string; id: string; values?: Record<string, ParameterValue> }
  | { type: 'insert.input'; id: string; slot: string; from: InsertInput | null }
  /** Lets an effect play the notes of a strip or, by its own id, its own. */
  | { type: 'insert.notes'; id: string; from: string | null }
  | { type: 'insert.set'; id: string; values: Record<string, ParameterValue> }
  | { type: 'insert.bypass'; id: string; bypass: boolean }
  /** Within its strip, or into another. */
  | { type: 'insert.move'; id: string; to: number; stripId?: string }
  | { type: 'insert.remove'; id: string }
  | { type: 'chain.replace'; stripId: string; inserts: readonly Insert[] }
  | { type: 'note.add'; notes: readonly Note[] }
  | { type: 'note.set'; changes: readonly NoteChange[] }
  | { type: 'note.remove'; ids: readonly string[] }
  | { type: 'lane.add'; lane: Lane }
  | { type: 'lane.set'; id: string; values: Partial<Omit<Lane, 'id' | 'ownerId' | 'parameter'>> }
  | { type: 'lane.remove'; id: string }
  | { type: 'modulator.add'; modulator: Modulator }
  | { type: 'modulator.set'; id: string; values: Partial<Omit<Modulator, 'id'>> }
  | { type: 'modulator.remove'; id: string }
  | { type: 'comparison.choose'; id: string; slot: SlotName }
  | { type: 'comparison.remove'; id: string }
  | { type: 'print.add'; print: Print }
  /** What has come of a print; its sound is in the session already. */
  | { type: 'print.made'; id: string; made: Print['made'] }
  | { type: 'print.set'; id: string; recipe: PrintRecipe }
  /** Its clips play what has been made as a sound like any other. */
  | { type: 'print.unlink'; id: string }
  | { type: 'print.remove'; id: string }
  | { type: 'all'; commands: readonly Command[] };

/** What of a note becomes otherwise. */
export type NoteChange = { readonly id: string } & Partial<Omit<Note, 'id' | 'ownerId'>>;

/** One undoable change: what it is called, how it is done again and how it is taken back. */
export interface Step {
  readonly label: string;
  readonly forward: readonly Change[];
  readonly inverse: readonly Change[];
}

/**
 * Does a command. The document given stays as it is; the new one shares what did not change.
 * @throws KinetikonError when the command names what is not there or leads to an invalid record; nothing is changed
 */
export function applyCommand(
  document: SessionDocument,
  command: Command,
  label: string,
): { document: SessionDocument; step: Step } {
  const [next, forward, inverse] = produceWithPatches(document, (draft) => {
    execute(draft, command);
    placeLinked(draft);
  });
  validateTouched(next, forward);
  return {
    document: next,
    step: { label, forward: byPoints(document, next, forward), inverse: byPoints(next, document, inverse) },
  };
}

/**
 * Does a step again, or takes it back with its inverse.
 * @throws KinetikonError when what comes of it is not a valid document, as of steps that somebody has altered
 */
export function applyStep(document: SessionDocument, changes: readonly Change[]): SessionDocument {
  // Prints rendered since the step may have another length, so linked clips are placed anew.
  const next = produce(applyChanges(document, changes), placeLinked);
  validateTouched(next, changes);
  return next;
}

function stripIn(draft: SessionDocument, id: string): Strip {
  return need(stripOf(draft, id), `track ${id}`);
}

function stripWith(draft: SessionDocument, insertId: string): Strip {
  return need(stripOfInsert(draft, insertId), `effect ${insertId}`);
}

function addInsert(
  draft: SessionDocument,
  id: string,
  effect: string,
  given: Record<string, ParameterValue> = {},
): void {
  const spec = effectById(effect);
  const values = { ...defaultValues(spec), ...validateValues(spec, given) };
  draft.inserts[id] = { id, effect: spec.id, bypass: false, values, inputs: {}, notesFrom: null };
}

function removeInsert(draft: SessionDocument, id: string): void {
  const strip = stripWith(draft, id);
  const placed = channelOf(draft, strip.id);
  if (placed?.placeId === id) leaveStage(draft, placed);
  else strip.insertIds.splice(strip.insertIds.indexOf(id), 1);
  delete draft.inserts[id];
  for (const modulator of Object.values(draft.modulators)) {
    const kept = modulator.targets.filter(({ insertId }) => insertId !== id);
    if (kept.length < modulator.targets.length) modulator.targets = kept;
  }
  forget(draft, id);
}

/** What stood opposite to it stays where it is set itself. */
function leaveStage(draft: SessionDocument, strip: Track | Return): void {
  strip.placeId = null;
  strip.oppositeOf = null;
  for (const other of channels(draft)) if (other.oppositeOf === strip.id) other.oppositeOf = null;
}

function removeSend(draft: SessionDocument, id: string): void {
  need(draft.sends[id], `send ${id}`);
  delete draft.sends[id];
  forget(draft, id);
}

/** Lets an effect listen to strips, and play their notes, no more. */
function dropInputs(insert: Insert, gone: (stripId: string) => boolean): void {
  if (insert.notesFrom !== null && insert.notesFrom !== insert.id && gone(insert.notesFrom)) insert.notesFrom = null;
  for (const [slot, { stripId }] of Object.entries(insert.inputs)) if (gone(stripId)) delete insert.inputs[slot];
}

/** Removes a track, return or group with everything on it; what it fed or steered goes on without it. */
function removeStrip(draft: SessionDocument, id: string): void {
  const strip = need(channelOf(draft, id), `track ${id}`);
  for (const { recipe } of Object.values(draft.prints)) {
    if (recipe.kind !== 'swell' || recipe.space.kind !== 'return' || recipe.space.returnId !== id) continue;
    recipe.space = {
      kind: 'own',
      inserts: strip.insertIds.map((one) => ({ ...draft.inserts[one]!, inputs: {}, notesFrom: null })),
    };
  }
  for (const insertId of [...strip.insertIds, strip.placeId]) if (insertId !== null) removeInsert(draft, insertId);
  for (const clip of Object.values(draft.clips)) {
    if (draft.clips[clip.id] && clip.trackId === id) removeClip(draft, clip.id);
  }
  for (const send of Object.values(draft.sends)) {
    if (send.fromId === id || send.toId === id) removeSend(draft, send.id);
  }
  for (const other of channels(draft)) if (other.outputId === id) other.outputId = MAIN_ID;
  for (const insert of Object.values(draft.inserts)) dropInputs(insert, (stripId) => stripId === id);
  for (const { id: printId, recipe } of Object.values(draft.prints)) {
    if (recipe.kind === 'strip' && recipe.stripId === id) removePrint(draft, printId);
  }
  for (const modulator of Object.values(draft.modulators)) if (modulator.followId === id) modulator.followId = null;
  forget(draft, id);
  for (const list of [draft.session.trackIds, draft.session.returnIds]) {
    if (list.includes(id)) list.splice(list.indexOf(id), 1);
  }
  delete draft.tracks[id];
  delete draft.returns[id];
}

/** Puts other effects in the place of a chain; those that keep their id keep their automation. */
function replaceChain(draft: SessionDocument, stripId: string, inserts: readonly Insert[]): void {
  const strip = stripIn(draft, stripId);
  const kept = new Set(inserts.map((insert) => insert.id));
  for (const id of [...strip.insertIds]) if (!kept.has(id)) removeInsert(draft, id);
  for (const insert of inserts) draft.inserts[insert.id] = { ...insert, values: { ...insert.values } };
  strip.insertIds = inserts.map((insert) => insert.id);
}

/** The same once more, of which nothing changes with the first. */
const copyOf = <T>(one: T): T => JSON.parse(JSON.stringify(one)) as T;

/** The effect or the chain that is compared, as a slot keeps it. */
function contentsOf(draft: SessionDocument, id: string): Slot {
  const ids = draft.inserts[id] ? [id] : stripIn(draft, id).insertIds;
  return {
    inserts: ids.map((one) => copyOf(draft.inserts[one]!)),
    lanes: Object.values(draft.lanes)
      .filter((lane) => ids.includes(lane.ownerId))
      .map(copyOf),
  };
}

/** Puts what is heard into its slot and what another slot holds in its place; an empty slot begins as a copy. */
function chooseSlot(draft: SessionDocument, id: string, slot: SlotName): void {
  const empty: Comparison = { id, current: 'A', slots: { A: null, B: null, C: null, D: null } };
  const comparison = (draft.comparisons[id] ??= empty);
  const heard = contentsOf(draft, id);
  const next = (slot === comparison.current ? null : comparison.slots[slot]) ?? heard;
  const slots = { ...comparison.slots, [comparison.current]: heard, [slot]: next };
  for (const lane of heard.lanes) removeLane(draft, lane.id);
  // What is heard can change with the next command of the same step, and its slot must not; what it refers to may have gone.
  const { inserts, lanes } = copyOf(next);
  for (const insert of inserts) dropInputs(insert, (stripId) => !channelOf(draft, stripId));
  if (draft.inserts[id]) draft.inserts[id] = inserts[0]!;
  else replaceChain(draft, id, inserts);
  for (const lane of lanes) {
    const { mirrorOf } = lane;
    draft.lanes[lane.id] = mirrorOf !== null && !draft.lanes[mirrorOf] ? { ...lane, mirrorOf: null } : lane;
  }
  draft.comparisons[id] = { id, current: slot, slots };
}

/** Moves one entry of a list; `to` is its place afterwards. */
function moveWithin(list: string[], id: string, to: number): void {
  list.splice(list.indexOf(id), 1);
  list.splice(Math.max(0, Math.min(list.length, to)), 0, id);
}

function execute(draft: SessionDocument, command: Command): void {
  switch (command.type) {
    case 'session.set':
      Object.assign(draft.session, command.values);
      if (draft.session.loopEndBeat <= draft.session.loopStartBeat) {
        throw new KinetikonError('session.command', 'The loop must end after it starts.', {
          kept: 'Nothing was changed.',
        });
      }
      return;
    case 'section.add':
      draft.sections[command.section.id] = { ...command.section };
      return;
    case 'section.set':
      Object.assign(need(draft.sections[command.id], `section ${command.id}`), command.values);
      return;
    case 'section.remove':
      need(draft.sections[command.id], `section ${command.id}`);
      delete draft.sections[command.id];
      return;
    case 'track.add':
      draft.tracks[command.id] = newTrack(command.id, command.name);
      draft.session.trackIds.push(command.id);
      return;
    case 'return.add':
      draft.returns[command.id] = newReturn(command.id, command.name, command.role);
      draft.session.returnIds.push(command.id);
      return;
    case 'strip.set':
      Object.assign(stripIn(draft, command.id), command.values);
      return;
    case 'strip.move': {
      need(channelOf(draft, command.id), `track ${command.id}`);
      const { trackIds, returnIds } = draft.session;
      moveWithin(draft.tracks[command.id] ? trackIds : returnIds, command.id, command.to);
      return;
    }
    case 'strip.remove':
      removeStrip(draft, command.id);
      return;
    case 'send.add':
      draft.sends[command.send.id] = { ...command.send };
      return;
    case 'send.set':
      Object.assign(need(draft.sends[command.id], `send ${command.id}`), command.values);
      return;
    case 'send.remove':
      removeSend(draft, command.id);
      return;
    case 'asset.add':
      draft.assets[command.asset.id] ??= command.asset;
      return;
    case 'asset.drop':
      // Read as plain data: a draft would copy all that it is asked about.
      if (!isReferred(current<object>(draft) as SessionDocument, command.id)) delete draft.assets[command.id];
      return;
    case 'clip.add':
      draft.clips[command.clip.id] = { ...command.clip };
      return;
    case 'clip.set':
      Object.assign(need(draft.clips[command.id], `clip ${command.id}`), command.values);
      if (command.values.source) dropUnusedPrints(draft);
      return;
    case 'clip.split':
      splitClip(draft, command);
      return;
    case 'clip.duplicate':
      duplicateClips(draft, command.copies);
      return;
    case 'clip.remove':
      for (const id of command.ids) need(draft.clips[id], `clip ${id}`);
      // One may take another along that is made from it.
      for (const id of command.ids) if (draft.clips[id]) removeClip(draft, id);
      return;
    case 'place.add': {
      const strip = need(channelOf(draft, command.stripId), `track ${command.stripId}`);
      if (strip.placeId !== null) removeInsert(draft, strip.placeId);
      addInsert(draft, command.id, PLACE_EFFECT, command.values);
      strip.placeId = command.id;
      return;
    }
    case 'insert.add': {
      const strip = stripIn(draft, command.stripId);
      addInsert(draft, command.id, command.effect, command.values);
      strip.insertIds.splice(Math.max(0, Math.min(strip.insertIds.length, command.index)), 0, command.id);
      return;
    }
    case 'insert.set': {
      const insert = need(draft.inserts[command.id], `effect ${command.id}`);
      const spec = effectById(insert.effect);
      const change = validateValues(spec, command.values);
      Object.assign(insert.values, completed(spec, { ...insert.values }, change, timingOf(draft)));
      return;
    }
    case 'insert.input': {
      const { inputs } = need(draft.inserts[command.id], `effect ${command.id}`);
      if (command.from) inputs[command.slot] = { ...command.from };
      else delete inputs[command.slot];
      return;
    }
    case 'insert.notes':
      need(draft.inserts[command.id], `effect ${command.id}`).notesFrom = command.from;
      return;
    case 'insert.bypass':
      need(draft.inserts[command.id], `effect ${command.id}`).bypass = command.bypass;
      return;
    case 'insert.move': {
      const { insertIds } = stripWith(draft, command.id);
      if (!insertIds.includes(command.id)) return;
      const target = command.stripId === undefined ? insertIds : stripIn(draft, command.stripId).insertIds;
      insertIds.splice(insertIds.indexOf(command.id), 1);
      target.splice(Math.max(0, Math.min(target.length, command.to)), 0, command.id);
      return;
    }
    case 'insert.remove':
      removeInsert(draft, command.id);
      return;
    case 'chain.replace':
      replaceChain(draft, command.stripId, command.inserts);
      return;
    case 'note.add':
      for (const note of command.notes) draft.notes[note.id] = { ...note };
      return;
    case 'note.set':
      for (const { id, ...values } of command.changes) Object.assign(need(draft.notes[id], `note ${id}`), values);
      return;
    case 'note.remove':
      for (const id of command.ids) {
        need(draft.notes[id], `note ${id}`);
        delete draft.notes[id];
      }
      return;
    case 'lane.add':
      draft.lanes[command.lane.id] = { ...command.lane };
      return;
    case 'lane.set':
      Object.assign(need(draft.lanes[command.id], `lane ${command.id}`), command.values);
      return;
    case 'lane.remove':
      need(draft.lanes[command.id], `lane ${command.id}`);
      removeLane(draft, command.id);
      return;
    case 'modulator.add':
      draft.modulators[command.modulator.id] = { ...command.modulator };
      return;
    case 'modulator.set':
      Object.assign(need(draft.modulators[command.id], `modulator ${command.id}`), command.values);
      return;
    case 'modulator.remove':
      need(draft.modulators[command.id], `modulator ${command.id}`);
      delete draft.modulators[command.id];
      return;
    case 'time.insert':
      insertTime(draft, command);
      return;
    case 'time.delete':
      deleteTime(draft, command);
      return;
    case 'comparison.choose':
      chooseSlot(draft, command.id, command.slot);
      return;
    case 'comparison.remove':
      delete draft.comparisons[command.id];
      return;
    case 'print.add':
      draft.prints[command.print.id] = { ...command.print };
      return;
    case 'print.made':
      need(draft.prints[command.id], `print ${command.id}`).made = command.made && { ...command.made };
      return;
    case 'print.set':
      need(draft.prints[command.id], `print ${command.id}`).recipe = command.recipe;
      return;
    case 'print.unlink':
      unlink(draft, command.id);
      return;
    case 'print.remove':
      need(draft.prints[command.id], `print ${command.id}`);
      removePrint(draft, command.id);
      return;
    case 'all':
      for (const one of command.commands) execute(draft, one);
      return;
  }
}
