import { original } from 'immer';
import { findEffect } from '../effects/registry';
import { resolveSetting } from '../effects/settings';
import { channelOf } from './records/queries';
import type { Asset, Clip, ClipSource } from './records/clips';
import { assetOfSound, soundIdOf } from './records/sounds';
import type { Insert } from './records/inserts';
import type { Print, PrintRecipe } from './records/prints';
import type { SessionDocument } from './records/document';

/** The sound that a clip plays (`soundIdOf`); null while that has not been made. One that is still to be repaired is heard as it is. */
export function soundOf(document: SessionDocument, source: ClipSource): string | null {
  if (source.kind === 'sound') {
    const asset = document.assets[source.assetId];
    return asset ? soundIdOf(asset) : source.assetId;
  }
  const print = document.prints[source.printId];
  if (print?.made) return print.made.assetId;
  return print?.recipe.kind === 'repair' ? soundOf(document, print.recipe.source) : null;
}

/** Place in a clip, in seconds from its beginning, of a place in its sound. */
export function soundPlace(clip: Clip, soundSeconds: number): number {
  const into = soundSeconds - clip.offsetSeconds;
  return clip.reversed ? clip.lengthSeconds - into : into;
}

/** Place in a clip's sound of a place in the clip, in seconds from its beginning. */
export function placeInSound(clip: Clip, clipSeconds: number): number {
  return clip.offsetSeconds + (clip.reversed ? clip.lengthSeconds - clipSeconds : clipSeconds);
}

/** True if a record other than the list of sounds refers to a sound. */
export function isReferred(document: SessionDocument, assetId: string): boolean {
  return JSON.stringify({ ...document, assets: {} }).includes(assetId);
}

export type PlacedPrint = Print & { recipe: Extract<PrintRecipe, { clipId: string }> };

/** True if a print's clips follow the position of its source clip. */
export function isPlaced(print: Print | undefined): print is PlacedPrint {
  return print?.recipe.kind === 'swell' || print?.recipe.kind === 'clip';
}

/** The print that puts a clip where it is; null for a clip that lies where it was put. */
export function placedPrintOf(document: SessionDocument, { source }: Pick<Clip, 'source'>): PlacedPrint | null {
  const print = source.kind === 'print' ? document.prints[source.printId] : undefined;
  return isPlaced(print) ? print : null;
}

/** The beat at which what is made from a clip lands: a swell at its word, other prints at the clip's beginning. */
export function landingBeat(document: SessionDocument, { recipe }: PlacedPrint): number {
  const clip = document.clips[recipe.clipId]!;
  const seconds = recipe.kind === 'swell' ? soundPlace(clip, recipe.landSeconds) : 0;
  return clip.startBeat + (seconds * document.session.tempoBpm) / 60;
}

/**
 * Puts clips that are made from others where those lead; a swell that would begin before the session loses its beginning.
 * @param draft of the document, within a change of it
 */
export function placeLinked(draft: SessionDocument): void {
  const beats = draft.session.tempoBpm / 60;
  const before = (original(draft as object) as SessionDocument | undefined)?.clips ?? {};
  // `Object.keys` would ask the draft about every single clip.
  for (const id of Reflect.ownKeys(draft.clips) as string[]) {
    // A clip that played a sound before is no placed print; reading it from the draft would make a proxy of it.
    if (before[id]?.source.kind === 'sound') continue;
    const clip = draft.clips[id]!;
    const print = clip.source.kind === 'print' ? draft.prints[clip.source.printId] : undefined;
    if (!isPlaced(print) || !draft.clips[print.recipe.clipId]) continue;
    const land = landingBeat(draft, print);
    const asset = draft.assets[print.made?.assetId ?? ''];
    const start = land - (print.made?.landSeconds ?? 0) * beats;
    const cut = Math.max(0, -start / beats);
    const placed = {
      startBeat: Math.max(0, start),
      offsetSeconds: cut,
      lengthSeconds: asset ? Math.max(0.001, asset.frames / asset.sampleRateHz - cut) : clip.lengthSeconds,
    };
    // Equal values must not count as a change.
    for (const key of ['startBeat', 'offsetSeconds', 'lengthSeconds'] as const) {
      if (clip[key] !== placed[key]) clip[key] = placed[key];
    }
  }
}

/** Assets that an effect works with. */
export function soundsOf({ effect, values }: Pick<Insert, 'effect' | 'values'>): string[] {
  return (findEffect(effect)?.settings ?? []).flatMap((setting) => {
    const resolved = resolveSetting(setting, values[setting.id] ?? setting.default);
    return resolved.kind === 'sound' && !resolved.shipped ? [resolved.id] : [];
  });
}

/** The asset of what a clip plays; undefined while its print has not been rendered. */
export function assetOf(document: SessionDocument, { source }: Pick<Clip, 'source'>): Asset | undefined {
  return document.assets[assetOfSound(soundOf(document, source) ?? '').assetId];
}

/** Places that the file of a clip names, in seconds of its sound. */
export const marksOf = (document: SessionDocument, clip: Pick<Clip, 'source'>): number[] =>
  (assetOf(document, clip)?.about?.marks ?? []).map(({ seconds }) => seconds);

/** The asset that plays in the place of a strip's clips and effects; null where these are at work. */
export function frozenSound(document: SessionDocument, stripId: string): string | null {
  const printId = channelOf(document, stripId)?.frozen;
  return printId ? (document.prints[printId]?.made?.assetId ?? null) : null;
}
