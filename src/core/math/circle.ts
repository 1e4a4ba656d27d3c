/** A whole turn, a quarter and an eighth of one, in radians; half a turn is `Math.PI`. */
export const TWO_PI = 2 * Math.PI;
export const HALF_PI = Math.PI / 2;
export const EIGHTH_TURN = Math.PI / 4;
