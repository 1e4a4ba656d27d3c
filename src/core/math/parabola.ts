/** How far the top of the parabola through three values in a row lies behind the middle one, in steps; 0 for a straight line. */
export function topOf(before: number, at: number, after: number): number {
  const bend = before - 2 * at + after;
  return bend === 0 ? 0 : (before - after) / (2 * bend);
}
