import { stepOf } from '../math/keys';

const NAMES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'] as const;
const STEPS: Readonly<Record<string, number>> = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 };

/** Keys are numbered as MIDI numbers them: 69 is A4, the A of 440 Hz (ISO 16), and C4 is 60. */
export const LOWEST_KEY = 0;
export const HIGHEST_KEY = 127;

/** `C#4` for 61. */
export function keyName(key: number): string {
  return `${NAMES[stepOf(key)]!}${Math.floor(key / 12) - 1}`;
}

/** Reads `C#4`, `Db4` or a number; undefined for what is none, or outside of C-1 to G9. */
export function readKey(text: string): number | undefined {
  const named = /^([a-g])([#b♯♭]?)(-?\d)$/.exec(text.toLowerCase());
  const sign = named?.[2];
  const key = named
    ? STEPS[named[1]!]! + (sign === '#' || sign === '♯' ? 1 : sign ? -1 : 0) + 12 * (Number(named[3]) + 1)
    : /^\d{1,3}$/.test(text)
      ? Number(text)
      : -1;
  return key >= LOWEST_KEY && key <= HIGHEST_KEY ? key : undefined;
}
