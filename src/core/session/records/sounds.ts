import type { Asset } from './clips';

/**
 * Id of what is heard of an asset, by which engine and renders know the sound: the asset's own, with its choice of
 * channels behind a colon where there is one. Effects work with all channels, by the asset's own id.
 */
export const soundIdOf = ({ id, heard }: Pick<Asset, 'id' | 'heard'>): string =>
  heard === undefined ? id : `${id}:${heard}`;

/** Length of an asset's sound, in seconds. */
export const secondsOf = ({ frames, sampleRateHz }: Pick<Asset, 'frames' | 'sampleRateHz'>): number =>
  frames / sampleRateHz;

/** The asset of a sound, and what is heard of it. */
export function assetOfSound(soundId: string): { readonly assetId: string; readonly heard?: string } {
  const [assetId, heard] = soundId.split(':');
  return { assetId: assetId!, ...(heard === undefined ? {} : { heard }) };
}
