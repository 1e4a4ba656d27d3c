import { effectById } from '../effects/registry';
import type { ParameterValue } from '../effects/spec';
import { COURSE } from '../effects/place/spec';
import { sidesHeard } from '../formats/speakers';
import { channelOf, channels } from './records/queries';
import type { Insert } from './records/inserts';
import type { Asset } from './records/clips';
import type { SessionDocument } from './records/document';
import type { Track, Return } from './records/strips';

/** As wide as the sides of a stereo sound stand apart in front of the listener, in metres: at 1 m, 72 degrees to each side. */
const STEREO_SIZE = 6;
/** Effects of these families put out on both sides the same of what is the same on both. */
const KEEPS_MONO: ReadonlySet<string> = new Set(['level', 'tone', 'tools']);

/** The effect that a strip's place on the stage is. */
export const PLACE_EFFECT = 'place';

const FOLLOWED: ReadonlySet<string> = new Set(COURSE);

/** The place of a strip on the stage; undefined while it has none. */
export function placeInsert(document: SessionDocument, stripId: string): Insert | undefined {
  const placeId = channelOf(document, stripId)?.placeId;
  return placeId ? document.inserts[placeId] : undefined;
}

/** Tracks, returns and groups that stand on the stage. */
export function placed(document: SessionDocument): (Track | Return)[] {
  return channels(document).filter(({ placeId }) => placeId !== null);
}

/** The place that says where a strip is and how it moves: its own, or that of what it stands opposite to. */
export function leadingPlace(document: SessionDocument, strip: Track | Return): Insert | undefined {
  return placeInsert(document, strip.oppositeOf ?? strip.id);
}

/** True if a place parameter of a strip follows the strip that it stands opposite to. */
export function isFollowed(strip: Track | Return, parameterId: string): boolean {
  return strip.oppositeOf !== null && FOLLOWED.has(parameterId);
}

/** The values of a strip's place as they are heard. */
export function placeValues(document: SessionDocument, strip: Track | Return): Record<string, ParameterValue> {
  const own = document.inserts[strip.placeId!]!;
  const { stage, panLaw } = document.session;
  const leader = strip.oppositeOf === null ? undefined : placeInsert(document, strip.oppositeOf);
  const course = leader
    ? Object.fromEntries(
        effectById(PLACE_EFFECT)
          .parameters.filter(({ id }) => FOLLOWED.has(id))
          .map(({ id }) => [id, leader.values[id]!]),
      )
    : {};
  const path = leader?.values.path ?? own.values.path!;
  return {
    ...own.values,
    ...course,
    path,
    render: stage === 'headphones' ? 'binaural' : 'speakers',
    law: panLaw,
  };
}

const isOfTwo = (asset: Asset | undefined) => asset !== undefined && sidesHeard(asset.heard, asset.channels) === 2;

/** True if the two sides of a strip can differ: by its sounds, an effect, or its inputs. */
export function isStereo(document: SessionDocument, strip: Track | Return): boolean {
  if (document.returns[strip.id]) return true;
  const ofTwo = Object.values(document.clips).some(
    ({ trackId, source }) =>
      trackId === strip.id && (source.kind === 'print' || isOfTwo(document.assets[source.assetId])),
  );
  return ofTwo || strip.insertIds.some((id) => !KEEPS_MONO.has(effectById(document.inserts[id]!.effect).family));
}

/**
 * Values of a place for a strip that gets one: where its pan has it, the sides of a stereo sound as far apart as they
 * were, and a return a little farther off.
 */
export function firstPlace(document: SessionDocument, strip: Track | Return): Record<string, ParameterValue> {
  const azimuth = Math.round(strip.pan * 0.9);
  if (document.returns[strip.id]?.role === 'return')
    return { azimuth, distance: 2, size: 2 * STEREO_SIZE, spread: 0, distanceLevel: 0 };
  return isStereo(document, strip) ? { azimuth, size: STEREO_SIZE, spread: 0 } : { azimuth };
}
