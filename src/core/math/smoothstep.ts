/** From 0 to 1 with level ends, for t from 0 to 1: the shape of fades that must not bend a waveform. */
export const smoothstep = (t: number): number => t * t * (3 - 2 * t);
