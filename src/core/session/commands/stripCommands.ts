import { channelIn, insertAt, removeOwned, removeRecord, setRecord, stripIn } from '../commandHelpers';
import { removeClip, removePrint } from '../clipEdits';
import { duplicateStrip } from '../duplicateStrip';
import { channels } from '../records/queries';
import { MAIN_ID, type Return, type Send, type Track } from '../records/strips';
import { newReturn, newTrack } from '../records/factories';
import type { SessionDocument } from '../records/document';
import type { Handlers } from './handlers';
import { dropInputs, removeInsert } from './insertCommands';

export interface StripCommands {
  'track.add': { id: string; name: string };
  'return.add': { id: string; name: string; role: Return['role'] };
  'strip.set': { id: string; values: Partial<Omit<Track, 'id' | 'insertIds'>> };
  /** Moves a track among the tracks, or a return among the returns, to an index. */
  'strip.move': { id: string; to: number };
  /** A copy with everything that belongs to it, beside it. */
  'strip.duplicate': { id: string; newId: string };
  'strip.remove': { id: string };
  'send.add': { send: Send };
  'send.set': { id: string; values: Partial<Omit<Send, 'id'>> };
  'send.remove': { id: string };
}

export const stripHandlers: Handlers<StripCommands> = {
  'track.add': (draft, { id, name }) => {
    draft.tracks[id] = newTrack(id, name);
    draft.session.trackIds.push(id);
  },
  'return.add': (draft, { id, name, role }) => {
    draft.returns[id] = newReturn(id, name, role);
    draft.session.returnIds.push(id);
  },
  'strip.set': (draft, { id, values }) => {
    Object.assign(stripIn(draft, id), values);
  },
  'strip.move': (draft, { id, to }) => {
    channelIn(draft, id);
    const { trackIds, returnIds } = draft.session;
    const list = draft.tracks[id] ? trackIds : returnIds;
    list.splice(list.indexOf(id), 1);
    insertAt(list, to, id);
  },
  'strip.duplicate': duplicateStrip,
  'strip.remove': (draft, { id }) => removeStrip(draft, id),
  'send.add': (draft, { send }) => {
    draft.sends[send.id] = { ...send };
  },
  'send.set': (draft, { id, values }) => setRecord(draft.sends, 'send', id, values),
  'send.remove': (draft, { id }) => removeSend(draft, id),
};

function removeSend(draft: SessionDocument, id: string): void {
  removeRecord(draft.sends, 'send', id);
  removeOwned(draft, id);
}

/** Removes a track, return or group with its clips, inserts and sends; strips that it fed or steered lose that input. */
function removeStrip(draft: SessionDocument, id: string): void {
  const strip = channelIn(draft, id);
  keepSpacesOfSwells(draft, strip);
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
  removeOwned(draft, id);
  for (const list of [draft.session.trackIds, draft.session.returnIds]) {
    if (list.includes(id)) list.splice(list.indexOf(id), 1);
  }
  delete draft.tracks[id];
  delete draft.returns[id];
}

/** Swells in the space of a return keep its effects as their own before the return goes. */
function keepSpacesOfSwells(draft: SessionDocument, { id, insertIds }: Track | Return): void {
  for (const { recipe } of Object.values(draft.prints)) {
    if (recipe.kind !== 'swell' || recipe.space.kind !== 'return' || recipe.space.returnId !== id) continue;
    const inserts = insertIds.map((one) => ({ ...draft.inserts[one]!, inputs: {}, notesFrom: null }));
    recipe.space = { kind: 'own', inserts };
  }
}
