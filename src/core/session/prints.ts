import { findEffect } from '../effects/registry';
import { resolveSetting } from '../effects/settings';
import { channelOf, type Asset, type Clip, type ClipSource, type Insert, type SessionDocument } from './records';

/** The asset of what a clip plays; null while that has not been made. */
export function soundOf(document: SessionDocument, source: ClipSource): string | null {
  return source.kind === 'sound' ? source.assetId : (document.prints[source.printId]?.made?.assetId ?? null);
}

/** Assets that an effect works with. */
export function soundsOf({ effect, values }: Pick<Insert, 'effect' | 'values'>): string[] {
  return (findEffect(effect)?.settings ?? []).flatMap((setting) => {
    const resolved = resolveSetting(setting, values[setting.id] ?? setting.default);
    return resolved.kind === 'sound' && !resolved.shipped ? [resolved.id] : [];
  });
}

/** What a clip plays; undefined while that has not been made. */
export function assetOf(document: SessionDocument, { source }: Pick<Clip, 'source'>): Asset | undefined {
  return document.assets[soundOf(document, source) ?? ''];
}

/** The asset that plays in the place of a strip's clips and effects; null where these are at work. */
export function frozenSound(document: SessionDocument, stripId: string): string | null {
  const printId = channelOf(document, stripId)?.frozen;
  return printId ? (document.prints[printId]?.made?.assetId ?? null) : null;
}
