import { each, type Old } from './each';

/** A record of version 4, whose shape is known only here. */
/** The one key of an effect becomes the first of its inputs. */
function withInputs({ keyId, keyTap, ...insert }: Old): Old {
  return { ...insert, inputs: keyId === null ? {} : { key: { stripId: keyId, tap: keyTap } } };
}

/**
 * Version 5 has inputs of effects by slot, clips with a source, and prints as records of their own. Nothing of version 4
 * sounds otherwise; a frozen strip counts as out of date until it is printed again.
 */
export function toVersion5(old: Old): Old {
  const prints: Old = {};
  const thaw = (strip: Old): Old => {
    const frozen = strip.frozen as { assetId: string } | null;
    if (frozen === null) return strip;
    const id = `${String(strip.id)}-print`;
    prints[id] = {
      id,
      recipe: { kind: 'strip', stripId: strip.id },
      made: { assetId: frozen.assetId, fingerprint: '' },
    };
    return { ...strip, frozen: id };
  };
  const slots = (all: unknown): Old =>
    Object.fromEntries(
      Object.entries(all as Record<string, Old | null>).map(([name, slot]) => [
        name,
        slot && { ...slot, inserts: (slot.inserts as Old[]).map(withInputs) },
      ]),
    );
  return {
    ...old,
    version: 5,
    tracks: each(old.tracks, thaw),
    returns: each(old.returns, thaw),
    clips: each(old.clips, ({ assetId, ...clip }) => ({ ...clip, source: { kind: 'sound', assetId } })),
    inserts: each(old.inserts, withInputs),
    comparisons: each(old.comparisons, (comparison) => ({ ...comparison, slots: slots(comparison.slots) })),
    prints,
  };
}
