import { log, pow } from './elementary';

/** Semitones of a whole key over the C below it, 0 to 11. */
export const stepOf = (key: number) => ((key % 12) + 12) % 12;

/** The key of a frequency above 0 Hz, as MIDI numbers them: 69 is the A of 440 Hz; parts of it lie between. */
export const keyOfHz = (hz: number) => 69 + (12 * log(hz / 440)) / Math.LN2;

/** The frequency of a key, in Hz. */
export const hzOfKey = (key: number) => 440 * pow(2, (key - 69) / 12);
