/**
 * What an oscillator works from. The figures from the third on move in straight lines: each stands before its step a
 * frame, counted from where `offset` is 0.
 */
export const WAVE = { phase: 0, modulatorPhase: 1, increment: 2, shape: 4, left: 6, right: 8, length: 10 } as const;
