import { MODES, TONICS, type SessionRecord } from './records';

/** Steps of a mode over its tonic, in semitones. */
const STEPS: Readonly<Record<(typeof MODES)[number], readonly number[]>> = {
  major: [0, 2, 4, 5, 7, 9, 11],
  minor: [0, 2, 3, 5, 7, 8, 10],
  dorian: [0, 2, 3, 5, 7, 9, 10],
  phrygian: [0, 1, 3, 5, 7, 8, 10],
  lydian: [0, 2, 4, 6, 7, 9, 11],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  locrian: [0, 1, 3, 5, 6, 8, 10],
};

/** Keys of a session's scale as steps over C, 0 to 11, from its tonic up. */
export function scaleOf({ keyTonic, keyMode }: Pick<SessionRecord, 'keyTonic' | 'keyMode'>): number[] {
  const tonic = TONICS.indexOf(keyTonic);
  return STEPS[keyMode].map((step) => (tonic + step) % 12);
}
