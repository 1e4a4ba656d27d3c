/** The nearest value from `low` to `high`; `low` where there is nothing between them. */
export function clamp(low: number, high: number, value: number): number {
  return Math.max(low, Math.min(Math.max(low, high), value));
}
