/**
 * Leaves |x| up to `knee` untouched and bends what is above towards `limit` with a continuous slope.
 * @param x any finite value
 * @returns less than `limit` in magnitude
 */
function guard(x: number, knee: number, limit: number): number {
  const magnitude = x < 0 ? -x : x;
  if (magnitude <= knee) return x;
  const span = limit - knee;
  const over = (magnitude - knee) / span;
  const bent = knee + (span * over) / (1 + over);
  return x < 0 ? -bent : bent;
}

/** Limits a signal in a feedback loop: linear to full scale, below 1.5, so that no loop runs away. */
export function guardLoop(x: number): number {
  return guard(x, 1, 1.5);
}

/**
 * Limits the output of a loop: linear to the loop's limit, below 1.7, so that any equal-power mix with a full-scale dry
 * signal stays under +6 dBFS: sqrt(1 + 1.7^2) is 1.973.
 */
export function guardHeard(x: number): number {
  return guard(x, 1.5, 1.7);
}

/** Limits the output of an effect that sums several parts: linear to the limit of one part, below 1.98. */
export function guardOutput(x: number): number {
  return guard(x, 1.7, 1.98);
}
