import type { ChartAxis } from './axes';

/** A part of an axis, from lowest to highest. */
export type Stretch = readonly [low: number, high: number];

/** As close as can be looked: this part of an axis. */
const CLOSEST = 1 / 64;

/**
 * Another part of an axis.
 * @param now the part that is shown; null for all of it
 * @param about the place on what is shown that stays where it is, from 0 to 1
 * @param times as much as is shown now
 * @param by what to pan, as a part of what is shown
 * @returns null for all of it
 */
export function zoomed(axis: ChartAxis, now: Stretch | null, about: number, times: number, by = 0): Stretch | null {
  const place = (value: number) =>
    axis.scale === 'log'
      ? Math.log(value / axis.min) / Math.log(axis.max / axis.min)
      : (value - axis.min) / (axis.max - axis.min);
  const value = (at: number) =>
    axis.scale === 'log' ? axis.min * (axis.max / axis.min) ** at : axis.min + at * (axis.max - axis.min);
  const [low, high] = now ? [place(now[0]), place(now[1])] : [0, 1];
  const shown = high - low;
  const next = Math.max(CLOSEST, shown * times);
  if (next >= 1 - 1e-9) return null;
  const from = Math.min(1 - next, Math.max(0, low + about * (shown - next) + by * shown));
  return [value(from), value(from + next)];
}
