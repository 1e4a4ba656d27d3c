import { fingerprint } from '../math/hash';
import type { EffectSpec } from './spec';
import type { ResolvedSettings } from './settings';

/** The resource that an effect needs, and the sound that it is prepared from; null for a sound that ships with the effect. */
export interface Resource {
  /** Another whenever what is prepared comes out otherwise. */
  readonly key: string;
  readonly assetId: string | null;
}

/**
 * The resource that an effect needs at its settings; undefined for effects that need none.
 * @param values all parameters in the order of the spec
 */
export function resourceFor(
  spec: EffectSpec,
  sampleRate: number,
  values: readonly number[],
  settings: ResolvedSettings = {},
): Resource | undefined {
  if (!spec.prepares) return undefined;
  const sound = Object.values(settings).find((one) => one.kind === 'sound');
  const from = spec.prepares.from.map((id) => values[spec.parameters.findIndex((one) => one.id === id)]);
  const key = fingerprint(JSON.stringify([spec.id, sampleRate, settings, from]));
  return { key, assetId: !sound || sound.shipped ? null : sound.id };
}
