import { exp } from '../../math/elementary';
import { SeededRandom } from '../../math/random';
import { SHORTEST_LINE } from '../../dsp/feedbackNetwork';
import { SOUND_SPEED } from '../../dsp/airAbsorption';

/** Lines are from this part of the room's length to that. */
const SHORTEST = 0.62;
const LONGEST = 1.55;
const LOG_RANGE = 0.9162907318741551;

/** Lines of rooms smaller than this are longer than those, 5 m at the least: few resonances would stand apart and ring. */
const SMALL_METRES = 8;

/** Length of a room to which the lines of its tail are made: that of a small one goes over smoothly to its own. */
function tailMetres(metres: number): number {
  const below = Math.max(0, SMALL_METRES - metres);
  return metres + (below * below) / 12;
}

/** The longest line of a room of this length, in seconds. */
export const longestLineSeconds = (metres: number): number => (LONGEST * tailMetres(metres)) / SOUND_SPEED;
/** The middle of all lines, in seconds. */
export const middleLineSeconds = (metres: number): number => tailMetres(metres) / SOUND_SPEED;

const random = new SeededRandom(0);

/**
 * Lengths of the lines of a tail as parts of the room's length: evenly spread by ratio, or in bunches of four.
 * @param bunched 0 for even to 1 for bunches
 * @param out as many as there are lines
 */
export function linePattern(seed: number, bunched: number, out: Float64Array): void {
  random.reseed(104729 * (seed + 1) + out.length);
  const lines = out.length;
  const bunches = lines / 4;
  for (let line = 0; line < lines; line++) {
    const even = (line + 0.15 + 0.7 * random.uniform()) / lines;
    const bunch = (Math.floor(line / 4) + 0.3 + 0.4 * (line & 3) * 0.25 + 0.1 * random.uniform()) / bunches;
    out[line] = SHORTEST * exp(LOG_RANGE * (even + bunched * (bunch - even)));
  }
  // Neighbours of one length do not stand in one pair.
  for (let line = lines - 1; line > 0; line--) {
    const other = Math.floor(random.uniform() * (line + 1));
    const held = out[line]!;
    out[line] = out[other]!;
    out[other] = held;
  }
}

/** The length of a line in frames. */
export const lineFrames = (part: number, metres: number, sampleRate: number): number =>
  Math.max(SHORTEST_LINE, (part * tailMetres(metres) * sampleRate) / SOUND_SPEED);
