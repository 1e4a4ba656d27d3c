import { channelOf, type Asset, type Clip, type ClipSource, type SessionDocument } from './records';

/** The asset of what a clip plays; null while that has not been made. */
export function soundOf(document: SessionDocument, source: ClipSource): string | null {
  return source.kind === 'sound' ? source.assetId : (document.prints[source.printId]?.made?.assetId ?? null);
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
