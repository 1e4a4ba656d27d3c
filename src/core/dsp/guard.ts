/**
 * Leaves |x| up to `knee` untouched and bends what is above towards `limit` with a continuous slope: the guard that
 * keeps a feedback loop finite.
 */
export function guard(x: number, knee: number, limit: number): number {
  const magnitude = x < 0 ? -x : x;
  if (magnitude <= knee) return x;
  const span = limit - knee;
  const over = (magnitude - knee) / span;
  const bent = knee + (span * over) / (1 + over);
  return x < 0 ? -bent : bent;
}
