import { KinetikonError } from '../errors';
import { removeOwned, need } from './commandHelpers';
import { assetOf, placedPrintOf, soundPlace } from './prints';
import { channels, endBeatOf } from './records/queries';
import type { Clip, ClipSource } from './records/clips';
import type { SessionDocument } from './records/document';

/** Edits of clips, and of the prints that they play or that are made from them. */

/** The shortest clip that trimming and splitting leave. */
export const SHORTEST_CLIP_SECONDS = 0.01;

export function removeClip(draft: SessionDocument, id: string): void {
  need(draft.clips[id], `clip ${id}`);
  delete draft.clips[id];
  removeOwned(draft, id);
  for (const print of Object.values(draft.prints)) {
    const { recipe } = print;
    if ('clipId' in recipe && recipe.clipId === id) release(draft, print.id);
  }
  dropUnusedPrints(draft);
}

/** Removes prints that no clip plays, but for those of frozen strips. */
export function dropUnusedPrints(draft: SessionDocument): void {
  const inUse = new Set(
    Object.values(draft.clips).flatMap(({ source }) => (source.kind === 'print' ? source.printId : [])),
  );
  for (const print of Object.values(draft.prints)) {
    if (print.recipe.kind !== 'strip' && !inUse.has(print.id)) delete draft.prints[print.id];
  }
}

/** Releases a print whose source is removed: its clips keep the rendered sound, or go if there is none. */
function release(draft: SessionDocument, printId: string): void {
  if (draft.prints[printId]?.made) unlink(draft, printId);
  else removePrint(draft, printId);
}

/** Turns a print's clips into plain clips of its rendered sound. */
export function unlink(draft: SessionDocument, printId: string): void {
  const { made } = need(draft.prints[printId], `print ${printId}`);
  if (!made) {
    throw new KinetikonError('session.command', 'It has not been made yet.', {
      kept: 'Nothing was changed.',
      next: 'Wait until it is there.',
    });
  }
  for (const clip of Object.values(draft.clips)) {
    if (clip.source.kind === 'print' && clip.source.printId === printId) {
      clip.source = { kind: 'sound', assetId: made.assetId };
    }
  }
  removePrint(draft, printId);
}

/** Removes a print with the clips that play it, and thaws a strip that is frozen to it. */
export function removePrint(draft: SessionDocument, id: string): void {
  for (const strip of channels(draft)) if (strip.frozen === id) strip.frozen = null;
  for (const { id: clipId, source } of Object.values(draft.clips)) {
    if (source.kind === 'print' && source.printId === id) removeClip(draft, clipId);
  }
  delete draft.prints[id];
}

export function splitClip(draft: SessionDocument, command: { id: string; atBeat: number; newId: string }): void {
  const clip = need(draft.clips[command.id], `clip ${command.id}`);
  const into = ((command.atBeat - clip.startBeat) * 60) / draft.session.tempoBpm;
  if (into < SHORTEST_CLIP_SECONDS || clip.lengthSeconds - into < SHORTEST_CLIP_SECONDS) {
    throw new KinetikonError('session.command', `A split must lie inside the clip ${clip.name}.`, {
      kept: 'Nothing was changed.',
      next: 'Put the playhead inside the clip first.',
    });
  }
  const placed = placedPrintOf(draft, clip);
  if (placed) unlink(draft, placed.id);
  const rest = clip.lengthSeconds - into;
  draft.clips[command.newId] = {
    ...clip,
    id: command.newId,
    startBeat: command.atBeat,
    offsetSeconds: clip.offsetSeconds + (clip.reversed ? 0 : into),
    lengthSeconds: rest,
    fadeInSeconds: 0,
    fadeOutSeconds: Math.min(clip.fadeOutSeconds, rest),
  };
  copyLanes(draft, clip.id, command.newId);
  if (clip.reversed) clip.offsetSeconds += rest;
  clip.lengthSeconds = into;
  clip.fadeInSeconds = Math.min(clip.fadeInSeconds, into);
  clip.fadeOutSeconds = 0;
  // A swell that lands in the second part goes on with that.
  for (const { recipe } of Object.values(draft.prints)) {
    if (recipe.kind !== 'swell' || recipe.clipId !== clip.id) continue;
    if (soundPlace(clip, recipe.landSeconds) >= into) recipe.clipId = command.newId;
  }
}

/** Copies go right after the last of the originals, keeping their distances. */
export function duplicateClips(draft: SessionDocument, copies: readonly { id: string; newId: string }[]): void {
  const originals = copies.map((copy) => need(draft.clips[copy.id], `clip ${copy.id}`));
  const start = Math.min(...originals.map((clip) => clip.startBeat));
  const end = Math.max(...originals.map((clip) => endBeatOf(draft, clip)));
  copies.forEach((copy, index) => {
    const clip = originals[index]!;
    draft.clips[copy.newId] = {
      ...clip,
      id: copy.newId,
      startBeat: clip.startBeat + (end - start),
      source: copiedSource(draft, clip, copies, copy.newId),
    };
    copyLanes(draft, copy.id, copy.newId);
  });
}

/** A copy made together with the clip that it is made from goes with that one's copy; alone it is a sound like any other. */
export function copiedSource(
  draft: SessionDocument,
  clip: Clip,
  copies: readonly { id: string; newId: string }[],
  newId: string,
): ClipSource {
  const print = placedPrintOf(draft, clip);
  if (!print) return clip.source;
  const { recipe } = print;
  const from = copies.find(({ id }) => id === recipe.clipId);
  if (from) {
    const id = `${newId}-print`;
    draft.prints[id] = { ...print, id, recipe: { ...recipe, clipId: from.newId } };
    return { kind: 'print', printId: id };
  }
  const asset = assetOf(draft, clip);
  if (!asset) {
    throw new KinetikonError('session.command', `${clip.name} has not been made yet.`, {
      kept: 'Nothing was changed.',
    });
  }
  return { kind: 'sound', assetId: asset.id };
}

/** Lanes of a clip follow its sound, so that its copy takes them over as they are. */
export function copyLanes(draft: SessionDocument, clipId: string, newClipId: string): void {
  for (const lane of Object.values(draft.lanes)) {
    if (lane.ownerId !== clipId) continue;
    const id = `${newClipId}-${lane.parameter}`;
    draft.lanes[id] = { ...lane, id, ownerId: newClipId };
  }
}
