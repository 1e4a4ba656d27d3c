/** From `a` to `b`: just `a` at weight 0 and just `b` at 1, which `a + weight * (b - a)` is not. */
export function between(a: number, b: number, weight: number): number {
  return a * (1 - weight) + b * weight;
}
