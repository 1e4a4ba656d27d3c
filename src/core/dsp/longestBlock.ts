/** The longest block, in frames, that the engine renders and anything of it works on at a time. */
export const LONGEST_BLOCK = 128;
