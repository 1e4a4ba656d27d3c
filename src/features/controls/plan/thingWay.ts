import { spotAt } from '@/core/effects/place/motion';
import type { SessionDocument } from '@/core/session/records/document';
import type { Return, Track } from '@/core/session/records/strips';
import { courseAt } from '@/core/session/stageMotion';
import { placeValues } from '@/core/session/stagePlacement';
import { lineThrough } from './geometry';

/** Points of a way that is drawn. */
const LOOKS = 180;

/** The way of a thing over a round, as it is set now. */
export function wayOf(document: SessionDocument, strip: Track | Return): { d: string; closed: boolean } | null {
  const values = placeValues(document, strip);
  if (values.motion === 'none') return null;
  const course = courseAt(document, strip, 0);
  if (values.motion === 'walk') {
    const { x, y } = spotAt({ ...course, motion: 'none' }, 0);
    const reach = Array.from({ length: LOOKS }, (_, n) => {
      const turn = (2 * Math.PI * n) / LOOKS;
      return { x: x + course.size * Math.SQRT2 * Math.sin(turn), y: y + course.size * Math.SQRT2 * Math.cos(turn) };
    });
    return { d: lineThrough(reach, true), closed: true };
  }
  const spots = Array.from({ length: LOOKS + 1 }, (_, n) => spotAt(course, n / LOOKS));
  return { d: lineThrough(spots, false), closed: false };
}
