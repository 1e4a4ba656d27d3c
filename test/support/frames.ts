/**
 * The first of the frames `from` to `to` (exclusive), `step` apart, where something does not hold; null where it holds in
 * all. One assertion on it takes the time of one, where thousands would take seconds.
 */
export function firstFailure(from: number, to: number, holds: (frame: number) => boolean, step = 1): number | null {
  for (let frame = from; frame < to; frame += step) if (!holds(frame)) return frame;
  return null;
}
