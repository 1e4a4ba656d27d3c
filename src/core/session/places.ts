import { effectById } from '../effects/registry';
import type { ParameterValue } from '../effects/spec';
import { COURSE } from '../effects/place/spec';
import { channelOf, channels, type Insert, type SessionDocument, type Track, type Return } from './records';

/** The effect that a strip's place on the stage is. */
export const PLACE = 'place';

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

/** Whether a parameter of a strip's place is taken over from what it stands opposite to. */
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
        effectById(PLACE)
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

/** Values of a place for a strip that gets one: where its pan has it, and of a return as wide as a room. */
export function firstPlace(document: SessionDocument, strip: Track | Return): Record<string, ParameterValue> {
  const azimuth = Math.round(strip.pan * 0.9);
  return document.returns[strip.id]?.role === 'return'
    ? { azimuth, distance: 2, size: 2, distanceLevel: 0 }
    : { azimuth };
}
