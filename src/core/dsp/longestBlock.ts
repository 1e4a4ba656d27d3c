/**
 * The longest block, in frames, that the engine renders and anything of it works on at a time. Live it is asked for a
 * quarter of that; prints and pictures are quicker in long blocks.
 */
export const LONGEST_BLOCK = 512;
