import { lookUp } from '../lookUp';
import { HIGHEST_KEY, keyName, readKey } from './pitchNames';

/** Semitones over the root, by what stands behind its name. */
const KINDS: Readonly<Record<string, readonly number[]>> = {
  '': [0, 4, 7],
  m: [0, 3, 7],
  dim: [0, 3, 6],
  aug: [0, 4, 8],
  '5': [0, 7],
  sus2: [0, 2, 7],
  sus4: [0, 5, 7],
  '6': [0, 4, 7, 9],
  m6: [0, 3, 7, 9],
  '7': [0, 4, 7, 10],
  maj7: [0, 4, 7, 11],
  m7: [0, 3, 7, 10],
  mmaj7: [0, 3, 7, 11],
  dim7: [0, 3, 6, 9],
  m7b5: [0, 3, 6, 10],
  '7sus4': [0, 5, 7, 10],
  add9: [0, 4, 7, 14],
  madd9: [0, 3, 7, 14],
  '9': [0, 4, 7, 10, 14],
  maj9: [0, 4, 7, 11, 14],
  m9: [0, 3, 7, 10, 14],
};
/** Other ways to write the same. */
const ALSO: Readonly<Record<string, string>> = {
  maj: '',
  M: '',
  min: 'm',
  '-': 'm',
  '+': 'aug',
  '°': 'dim',
  M7: 'maj7',
  min7: 'm7',
  '-7': 'm7',
  mM7: 'mmaj7',
  mMaj7: 'mmaj7',
  '°7': 'dim7',
  ø: 'm7b5',
  sus: 'sus4',
  min9: 'm9',
  M9: 'maj9',
};

const NAME = /^([A-Ga-g][#b♯♭]?)(.*?)(?:\/([A-Ga-g][#b♯♭]?))?$/;
/** Roots lie from C of this octave up, the bass of `Dm7/A` in the octave below. */
const OCTAVE = 3;

/** Keys of a chord by its name, `Dm7` or `C/E`, the lowest first; undefined for what is none. */
export function readChord(text: string): number[] | undefined {
  const [, rootName, kindName, bassName] = NAME.exec(text) ?? [];
  if (rootName === undefined) return undefined;
  const steps = lookUp(KINDS, lookUp(ALSO, kindName) ?? kindName!.replace('Maj', 'maj'));
  const root = readKey(`${rootName}${OCTAVE}`);
  if (!steps || root === undefined) return undefined;
  const bass = bassName === undefined ? [] : [readKey(`${bassName}${OCTAVE - 1}`)!];
  return [...bass, ...steps.map((step) => root + step)];
}

/** A key alone whose name is a chord's as well: `A7`. */
const AMBIGUOUS = /^[A-Ga-g][#b♯♭]?[5679]$/;

/**
 * Keys that notes and chords stand for, each once, from the lowest up. One word alone that could be both is the chord.
 * @returns the word that is neither, where there is one
 */
export function readKeys(words: readonly string[]): { keys: number[] } | { refused: string } {
  const keys = new Set<number>();
  for (const word of words) {
    const key = words.length === 1 && AMBIGUOUS.test(word) ? undefined : readKey(word);
    const read = key === undefined ? readChord(word) : [key];
    if (!read || read.some((one) => one < 0 || one > HIGHEST_KEY)) return { refused: word };
    for (const one of read) keys.add(one);
  }
  return { keys: [...keys].sort((a, b) => a - b) };
}

/** Keys as `readKeys` reads them again. */
export function writeKeys(keys: readonly number[]): string {
  const names = keys.map(keyName);
  return names.length === 1 && AMBIGUOUS.test(names[0]!) ? String(keys[0]) : names.join(' ');
}

/** `Dm` for keys of a chord, its root the lowest; the names of the keys for what has no name. */
export function chordName(keys: readonly number[]): string {
  const steps = keys.map((key) => key - keys[0]!).join();
  const kind = Object.entries(KINDS).find(([, over]) => over.join() === steps)?.[0];
  return kind === undefined ? keys.map(keyName).join(' ') : `${keyName(keys[0]!).replace(/-?\d+$/, '')}${kind}`;
}
