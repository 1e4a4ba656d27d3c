/** Offset of the vertex of the parabola through three consecutive values from the middle one, in steps; 0 for a line. */
export function topOf(before: number, at: number, after: number): number {
  const bend = before - 2 * at + after;
  return bend === 0 ? 0 : (before - after) / (2 * bend);
}
