import { stepOf } from '../math/keys';

/** A scale: its keys as steps over C, 0 to 11, from its tonic up. */
export type Scale = readonly number[];

/** Steps of the modes over their tonic, in semitones. */
export const MODE_STEPS = {
  major: [0, 2, 4, 5, 7, 9, 11],
  minor: [0, 2, 3, 5, 7, 8, 10],
  dorian: [0, 2, 3, 5, 7, 9, 10],
  phrygian: [0, 1, 3, 5, 7, 8, 10],
  lydian: [0, 2, 4, 6, 7, 9, 11],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  locrian: [0, 1, 3, 5, 6, 8, 10],
} as const;

const CHROMATIC = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11];

/** A mode by its name, or all keys. */
export type ScaleName = keyof typeof MODE_STEPS | 'chromatic';

/**
 * The scale that is chosen by its tonic and its steps, each its own or that of another scale.
 * @param tonic step over C; null for the other's
 * @param name null for the other's
 */
export function chosenScale(tonic: number | null, name: ScaleName | null, other: Scale): Scale {
  const root = other[0] ?? 0;
  const steps = name === 'chromatic' ? CHROMATIC : name ? MODE_STEPS[name] : other.map((one) => (one - root + 12) % 12);
  return scaleOn(tonic ?? root, steps);
}

/** @param tonic step over C */
export function scaleOn(tonic: number, steps: readonly number[]): Scale {
  return steps.map((one) => (tonic + one) % 12);
}

/** Place of a whole key in a scale, from 0 for the tonic; -1 for one that is not in it. */
export function degreeOf(key: number, scale: Scale): number {
  return scale.indexOf(stepOf(key));
}

/** The key of a scale nearest to one that may lie between keys; of two as near the lower. */
export function nearestInScale(key: number, scale: Scale): number {
  let nearest = NaN;
  for (let whole = Math.floor(key) - 12; whole <= Math.floor(key) + 12; whole++) {
    if (degreeOf(whole, scale) < 0) continue;
    if (Number.isNaN(nearest) || Math.abs(whole - key) < Math.abs(nearest - key)) nearest = whole;
  }
  return nearest;
}

/**
 * The key so many steps of a scale above another; 2 is a third. A key beside the scale goes from the one of the scale under
 * it, and stays as far above.
 * @param key whole
 * @param degrees whole, below 0 for down
 */
export function keyByDegrees(key: number, degrees: number, scale: Scale): number {
  let below = key;
  while (degreeOf(below, scale) < 0) below--;
  const place = degreeOf(below, scale) + degrees;
  const octaves = Math.floor(place / scale.length);
  const target = scale[place - octaves * scale.length]!;
  const rises = (at: number) => stepOf(at - scale[0]!);
  return below - rises(scale[degreeOf(below, scale)]!) + rises(target) + 12 * octaves + (key - below);
}
