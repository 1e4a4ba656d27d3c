import { current } from 'immer';
import type { Heard } from '../../formats/speakers';
import { copyLanes, dropUnusedPrints, duplicateClips, removeClip, splitClip } from '../clipEdits';
import { need, setRecord } from '../commandHelpers';
import { isReferred } from '../prints';
import type { Asset, Clip } from '../records/clips';
import type { SessionDocument } from '../records/document';
import type { Handlers } from './handlers';

export interface ClipCommands {
  'asset.add': { asset: Asset };
  /** Chooses what its clips play of more than two channels; null for the first two. */
  'asset.hear': { id: string; heard: Heard | null };
  /** Removes a sound unless something refers to it. */
  'asset.drop': { id: string };
  'clip.add': { clip: Clip };
  'clip.set': { id: string; values: Partial<Omit<Clip, 'id'>> };
  'clip.split': { id: string; atBeat: number; newId: string };
  'clip.duplicate': { copies: readonly { id: string; newId: string }[] };
  /** One copy, with its lanes, at a beat on the same track. */
  'clip.copy': { id: string; newId: string; startBeat: number };
  'clip.remove': { ids: readonly string[] };
}

export const clipHandlers: Handlers<ClipCommands> = {
  'asset.add': (draft, { asset }) => {
    draft.assets[asset.id] ??= asset;
  },
  'asset.hear': (draft, { id, heard }) => {
    const asset = need(draft.assets[id], `sound ${id.slice(0, 12)}`);
    if (heard === null) delete asset.heard;
    else asset.heard = heard;
  },
  'asset.drop': (draft, { id }) => {
    // A draft would copy every record that is read; plain data does not.
    if (!isReferred(current<object>(draft) as SessionDocument, id)) delete draft.assets[id];
  },
  'clip.add': (draft, { clip }) => {
    draft.clips[clip.id] = { ...clip };
  },
  'clip.set': (draft, { id, values }) => {
    setRecord(draft.clips, 'clip', id, values);
    if (values.source) dropUnusedPrints(draft);
  },
  'clip.split': splitClip,
  'clip.duplicate': (draft, { copies }) => duplicateClips(draft, copies),
  'clip.copy': (draft, { id, newId, startBeat }) => {
    draft.clips[newId] = { ...need(draft.clips[id], `clip ${id}`), id: newId, startBeat };
    copyLanes(draft, id, newId);
  },
  'clip.remove': (draft, { ids }) => {
    for (const id of ids) need(draft.clips[id], `clip ${id}`);
    // Removing a clip also removes those made from it, which may be among the ids.
    for (const id of ids) if (draft.clips[id]) removeClip(draft, id);
  },
};
