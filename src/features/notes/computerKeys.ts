/** Keys of the computer's keyboard by their places, as semitones over a C: two rows, white and black. */
export const COMPUTER_KEYS: Readonly<Record<string, number>> = {
  KeyA: 0,
  KeyW: 1,
  KeyS: 2,
  KeyE: 3,
  KeyD: 4,
  KeyF: 5,
  KeyT: 6,
  KeyG: 7,
  KeyY: 8,
  KeyH: 9,
  KeyU: 10,
  KeyJ: 11,
  KeyK: 12,
  KeyO: 13,
  KeyL: 14,
  KeyP: 15,
};

/** Steps over C that lie between two others. */
export const RAISED: readonly number[] = [1, 3, 6, 8, 10];
