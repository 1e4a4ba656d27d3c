/**
 * State of an oscillator, by index. The values from the third on ramp: each is followed by its step per frame, counted from
 * `offset` 0.
 */
export const WAVE = { phase: 0, modulatorPhase: 1, increment: 2, shape: 4, left: 6, right: 8, length: 10 } as const;
