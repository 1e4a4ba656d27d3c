import type { PitchCourse } from '@/core/analysis/pitch';
import { keyName } from '@/core/effects/pitchNames';
import { degreeOf, type Scale } from '@/core/effects/scaleKeys';
import { keyOfHz } from '@/core/math/keys';
import { placeInSound, soundPlace } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';

/** Keys beyond the lowest and the highest that are sung, and how many are shown at least. */
const BEYOND = 1.5;
const LEAST_KEYS = 7;
/** Part of the pitches that may lie outside of the range, below and above: stray readings are no notes. */
const STRAYS = 0.02;
/** Semitones from one look to the next that are no glide. */
const LEAP = 3;
/** Pixels from one name to the next at least. */
const NAME_HEIGHT = 11;
/** Height of the clip's name at its foot, in pixels. */
const FOOT = 18;

interface Look {
  /** Place in the clip. */
  readonly seconds: number;
  /** With parts of a semitone; NaN without a voice. */
  readonly key: number;
}

function looksAt(course: PitchCourse, clip: Clip): Look[] {
  const ends = [placeInSound(clip, 0), placeInSound(clip, clip.lengthSeconds)];
  const first = Math.max(0, Math.ceil(Math.min(...ends) / course.hopSeconds));
  const last = Math.min(course.hz.length - 1, Math.floor(Math.max(...ends) / course.hopSeconds));
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, n) => {
    const hz = course.hz[first + n]!;
    return { seconds: soundPlace(clip, (first + n) * course.hopSeconds), key: hz > 0 ? keyOfHz(hz) : NaN };
  });
}

function span(looks: readonly Look[]): { readonly low: number; readonly high: number } | null {
  const sung = looks.map(({ key }) => key).filter((key) => !Number.isNaN(key));
  if (sung.length === 0) return null;
  sung.sort((a, b) => a - b);
  const strays = Math.floor(STRAYS * sung.length);
  return { low: sung[strays]!, high: sung[sung.length - 1 - strays]! };
}

/** From where to where a clip is sung, such as `G3 to E4`, or the one key that is; null where nothing is. */
export function rangeWords(course: PitchCourse, clip: Clip): string | null {
  const sung = span(looksAt(course, clip));
  return sung && [...new Set([sung.low, sung.high].map((key) => keyName(Math.round(key))))].join(' to ');
}

/** A clip's pitch as a picture. */
export interface PitchLine {
  /** An SVG path, broken where there is no voice and where the pitch leaps. */
  readonly path: string;
  /** Keys of the scale, from the lowest up; those with a name have room for it. */
  readonly rows: readonly { readonly key: number; readonly y: number; readonly name: string | null }[];
}

/**
 * The pitch of what a clip plays over the lines of a scale.
 * @param perSecond pixels
 * @param height in pixels
 * @returns null where nothing is sung
 */
export function pitchLine(
  course: PitchCourse,
  clip: Clip,
  perSecond: number,
  height: number,
  scale: Scale,
): PitchLine | null {
  const looks = looksAt(course, clip);
  const sung = span(looks);
  if (!sung) return null;
  const { low, high } = sung;
  const spare = Math.max(BEYOND, (LEAST_KEYS - (high - low)) / 2);
  const perKey = height / (high - low + 2 * spare);
  const y = (key: number) => height - (key - low + spare) * perKey;

  let path = '';
  let before = NaN;
  for (const { seconds, key } of looks) {
    if (!Number.isNaN(key)) {
      const goesOn = Math.abs(key - before) <= LEAP;
      path += `${goesOn ? 'L' : 'M'}${(seconds * perSecond).toFixed(1)} ${y(key).toFixed(1)}`;
    }
    before = key;
  }

  const keys: number[] = [];
  for (let key = Math.ceil(low - spare); key <= high + spare; key++) if (degreeOf(key, scale) >= 0) keys.push(key);
  const named: number[] = [];
  // The tonic is named first, then from it up and down what there is room for.
  const inTurn = [...keys].sort((a, b) => Number(degreeOf(a, scale) > 0) - Number(degreeOf(b, scale) > 0));
  for (const key of inTurn) {
    const fits = y(key) > NAME_HEIGHT / 2 && y(key) < height - FOOT - NAME_HEIGHT / 2;
    if (fits && named.every((other) => Math.abs(y(other) - y(key)) >= NAME_HEIGHT)) named.push(key);
  }
  return {
    path,
    rows: keys.map((key) => ({ key, y: y(key), name: named.includes(key) ? keyName(key) : null })),
  };
}
