/** Tempo and metre as far as note values need them. A beat is a quarter note. */
export interface Timing {
  readonly tempoBpm: number;
  readonly beatsPerBar: number;
}

/** Timing of what has no session: 120 beats a minute, four of them a bar. */
export const PLAIN_TIMING: Timing = { tempoBpm: 120, beatsPerBar: 4 };

const NOTE = /^1\/(1|2|4|8|16|32|64)(d|t)?$/;
const BARS = /^([1-4])bars?$/;

/** All note values in the order of their usual length, as written: `1/64t` to `4bar`. */
export const NOTE_VALUES: readonly string[] = [
  ...[64, 32, 16, 8, 4, 2, 1].flatMap((division) => [`1/${division}t`, `1/${division}`, `1/${division}d`]),
  '1bar',
  '2bar',
  '3bar',
  '4bar',
];

/** Length of a note value in beats (quarter notes), or undefined when the text is not one. */
export function noteValueBeats(text: string, timing: Pick<Timing, 'beatsPerBar'>): number | undefined {
  const note = NOTE.exec(text);
  if (note) {
    const straight = 4 / Number(note[1]);
    return note[2] === 'd' ? straight * 1.5 : note[2] === 't' ? (straight * 2) / 3 : straight;
  }
  const bars = BARS.exec(text);
  return bars ? Number(bars[1]) * timing.beatsPerBar : undefined;
}

/** Length of a note value in seconds, or undefined when the text is not one. */
export function noteValueSeconds(text: string, timing: Timing): number | undefined {
  const beats = noteValueBeats(text, timing);
  return beats === undefined ? undefined : (beats * 60) / timing.tempoBpm;
}

/** Spellings of dotted notes, triplets and bars, and the form used here. */
const SPELLINGS: readonly (readonly [RegExp, string])[] = [
  [/\s+/g, ''],
  [/(dotted|\.)$/, 'd'],
  [/(triplets?|trip)$/, 't'],
  [/bars?$/, 'bar'],
];
const THREE = /^3\/(2|4|8|16|32|64|128)$/;

/**
 * Reads a note value as people write it: `1/8d`, `1/8 d`, `1/8.`, `1/8 dotted`, `3/16`, `2 bars`; undefined when it is
 * none.
 */
export function readNoteValue(text: string): string | undefined {
  const plain = SPELLINGS.reduce((so, [from, to]) => so.replace(from, to), text.trim().toLowerCase());
  const three = THREE.exec(plain);
  const note = three ? `1/${Number(three[1]) / 2}d` : plain;
  return noteValueBeats(note, { beatsPerBar: 4 }) === undefined ? undefined : note;
}

/** A note value in words: `1/8 dotted`, `2 bars`. */
export function noteValueName(text: string): string {
  if (text.endsWith('d')) return `${text.slice(0, -1)} dotted`;
  if (text.endsWith('t')) return `${text.slice(0, -1)} triplet`;
  const bars = BARS.exec(text);
  return bars ? `${bars[1]} ${bars[1] === '1' ? 'bar' : 'bars'}` : text;
}
