import { applyPatches, enablePatches, produceWithPatches, type Patch } from 'immer';
import { effectById } from '../effects/registry';
import { validateValues } from '../effects/resolve';
import { defaultValues, type ParameterValue } from '../effects/spec';
import { KinetikonError } from '../errors';
import {
  COLLECTIONS,
  MAIN_ID,
  newStrip,
  validateRecord,
  validateReferences,
  type Asset,
  type Clip,
  type CollectionName,
  type Section,
  type SessionDocument,
  type SessionRecord,
  type Track,
} from './records';

enablePatches();

/** Everything that can be done to a document. Ids of new records are chosen by the caller. */
export type Command =
  | { type: 'session.set'; values: Partial<Omit<SessionRecord, 'trackIds'>> }
  | { type: 'section.add'; section: Section }
  | { type: 'section.set'; id: string; values: Partial<Omit<Section, 'id'>> }
  | { type: 'section.remove'; id: string }
  | { type: 'track.add'; id: string; name: string }
  | { type: 'strip.set'; id: string; values: Partial<Pick<Track, 'name' | 'gainDb' | 'pan' | 'mute' | 'solo'>> }
  | { type: 'track.move'; id: string; to: number }
  | { type: 'track.remove'; id: string }
  | { type: 'asset.add'; asset: Asset }
  | { type: 'clip.add'; clip: Clip }
  | { type: 'clip.set'; id: string; values: Partial<Omit<Clip, 'id'>> }
  | { type: 'clip.split'; id: string; atBeat: number; newId: string }
  | { type: 'clip.duplicate'; copies: readonly { id: string; newId: string }[] }
  | { type: 'clip.remove'; ids: readonly string[] }
  | { type: 'insert.add'; stripId: string; id: string; effect: string; index: number }
  | { type: 'insert.set'; id: string; values: Record<string, ParameterValue> }
  | { type: 'insert.bypass'; id: string; bypass: boolean }
  | { type: 'insert.move'; id: string; to: number }
  | { type: 'insert.remove'; id: string }
  | { type: 'all'; commands: readonly Command[] };

/** One undoable change: what it is called, how it is done again and how it is taken back. */
export interface Step {
  readonly label: string;
  readonly forward: readonly Patch[];
  readonly inverse: readonly Patch[];
}

/** The shortest clip that trimming and splitting leave. */
export const SHORTEST_CLIP_SECONDS = 0.01;

const missing = (what: string) =>
  new KinetikonError('session.command', `There is no ${what}.`, { kept: 'Nothing was changed.' });

function need<T>(record: T | undefined, what: string): T {
  if (record === undefined) throw missing(what);
  return record;
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
  const [next, forward, inverse] = produceWithPatches(document, (draft) => execute(draft, command));
  validateTouched(next, forward);
  return { document: next, step: { label, forward, inverse } };
}

/** Does a step again, or takes it back with its inverse. */
export function applyStep(document: SessionDocument, patches: readonly Patch[]): SessionDocument {
  return applyPatches(document, [...patches]);
}

function validateTouched(document: SessionDocument, patches: readonly Patch[]): void {
  const touched = new Set(patches.map((patch) => `${patch.path[0]}/${patch.path[1]}`));
  for (const place of touched) {
    const [kind, id] = place.split('/') as [string, string];
    if (kind === 'session' || kind === 'main') validateRecord(kind, document[kind]);
    else if (COLLECTIONS.includes(kind as CollectionName)) {
      const record = document[kind as CollectionName][id];
      if (record) validateRecord(kind as CollectionName, record);
    }
  }
  validateReferences(document);
}

function stripIn(draft: SessionDocument, id: string): Track {
  return need(id === MAIN_ID ? draft.main : draft.tracks[id], `track ${id}`);
}

function removeInsert(draft: SessionDocument, id: string): void {
  const strip = stripWith(draft, id);
  strip.insertIds.splice(strip.insertIds.indexOf(id), 1);
  delete draft.inserts[id];
}

function stripWith(draft: SessionDocument, insertId: string): Track {
  return need(
    [...Object.values(draft.tracks), draft.main].find((strip) => strip.insertIds.includes(insertId)),
    `effect ${insertId}`,
  );
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
      draft.sections[command.section.id] = command.section;
      return;
    case 'section.set':
      Object.assign(need(draft.sections[command.id], `section ${command.id}`), command.values);
      return;
    case 'section.remove':
      need(draft.sections[command.id], `section ${command.id}`);
      delete draft.sections[command.id];
      return;
    case 'track.add':
      draft.tracks[command.id] = newStrip(command.id, command.name);
      draft.session.trackIds.push(command.id);
      return;
    case 'strip.set':
      Object.assign(stripIn(draft, command.id), command.values);
      return;
    case 'track.move':
      need(draft.tracks[command.id], `track ${command.id}`);
      moveWithin(draft.session.trackIds, command.id, command.to);
      return;
    case 'track.remove': {
      const track = need(draft.tracks[command.id], `track ${command.id}`);
      for (const id of [...track.insertIds]) removeInsert(draft, id);
      for (const clip of Object.values(draft.clips)) if (clip.trackId === command.id) delete draft.clips[clip.id];
      draft.session.trackIds.splice(draft.session.trackIds.indexOf(command.id), 1);
      delete draft.tracks[command.id];
      return;
    }
    case 'asset.add':
      draft.assets[command.asset.id] ??= command.asset;
      return;
    case 'clip.add':
      draft.clips[command.clip.id] = command.clip;
      return;
    case 'clip.set':
      Object.assign(need(draft.clips[command.id], `clip ${command.id}`), command.values);
      return;
    case 'clip.split':
      splitClip(draft, command);
      return;
    case 'clip.duplicate':
      duplicateClips(draft, command.copies);
      return;
    case 'clip.remove':
      for (const id of command.ids) {
        need(draft.clips[id], `clip ${id}`);
        delete draft.clips[id];
      }
      return;
    case 'insert.add': {
      const spec = effectById(command.effect);
      const strip = stripIn(draft, command.stripId);
      draft.inserts[command.id] = { id: command.id, effect: spec.id, bypass: false, values: defaultValues(spec) };
      strip.insertIds.splice(Math.max(0, Math.min(strip.insertIds.length, command.index)), 0, command.id);
      return;
    }
    case 'insert.set': {
      const insert = need(draft.inserts[command.id], `effect ${command.id}`);
      Object.assign(insert.values, validateValues(effectById(insert.effect), command.values));
      return;
    }
    case 'insert.bypass':
      need(draft.inserts[command.id], `effect ${command.id}`).bypass = command.bypass;
      return;
    case 'insert.move':
      moveWithin(stripWith(draft, command.id).insertIds, command.id, command.to);
      return;
    case 'insert.remove':
      removeInsert(draft, command.id);
      return;
    case 'all':
      for (const one of command.commands) execute(draft, one);
      return;
  }
}

function splitClip(draft: SessionDocument, command: { id: string; atBeat: number; newId: string }): void {
  const clip = need(draft.clips[command.id], `clip ${command.id}`);
  const into = ((command.atBeat - clip.startBeat) * 60) / draft.session.tempoBpm;
  if (into < SHORTEST_CLIP_SECONDS || clip.lengthSeconds - into < SHORTEST_CLIP_SECONDS) {
    throw new KinetikonError('session.command', `A split must lie inside the clip ${clip.name}.`, {
      kept: 'Nothing was changed.',
      next: 'Put the playhead inside the clip first.',
    });
  }
  draft.clips[command.newId] = {
    ...clip,
    id: command.newId,
    startBeat: command.atBeat,
    offsetSeconds: clip.offsetSeconds + into,
    lengthSeconds: clip.lengthSeconds - into,
    fadeInSeconds: 0,
    fadeOutSeconds: Math.min(clip.fadeOutSeconds, clip.lengthSeconds - into),
  };
  clip.lengthSeconds = into;
  clip.fadeInSeconds = Math.min(clip.fadeInSeconds, into);
  clip.fadeOutSeconds = 0;
}

/** Copies go right after the last of the originals, keeping their distances. */
function duplicateClips(draft: SessionDocument, copies: readonly { id: string; newId: string }[]): void {
  const beats = draft.session.tempoBpm / 60;
  const originals = copies.map((copy) => need(draft.clips[copy.id], `clip ${copy.id}`));
  const start = Math.min(...originals.map((clip) => clip.startBeat));
  const end = Math.max(...originals.map((clip) => clip.startBeat + clip.lengthSeconds * beats));
  copies.forEach((copy, index) => {
    const clip = originals[index]!;
    draft.clips[copy.newId] = { ...clip, id: copy.newId, startBeat: clip.startBeat + (end - start) };
  });
}
