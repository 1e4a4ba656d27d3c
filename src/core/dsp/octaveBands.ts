/** Middles of the octaves of an acoustics report, in Hz. */
export const OCTAVES_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000] as const;
