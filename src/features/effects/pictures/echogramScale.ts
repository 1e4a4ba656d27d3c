import type { Echogram } from '@/core/analysis/echogram';

/** The quietest level drawn. */
export const FLOOR_DB = -60;

export interface Bar {
  /** Seconds after the impulse. */
  readonly at: number;
  readonly db: number;
}

/** Height of a level between the floor and 0 dB, 0 to 1; a little more for levels above 0 dB. */
export function heightOf(db: number): number {
  return Math.max(0, Math.min(1.1, 1 - db / FLOOR_DB));
}

/** The arrivals of one channel: slots above the floor that are no smaller than their neighbours, at most `most` of them. */
export function barsOf(levels: Float32Array, times: Float64Array, most: number): Bar[] {
  const bars: Bar[] = [];
  for (let slot = 0; slot < levels.length; slot++) {
    const level = levels[slot]!;
    if (level < 10 ** (FLOOR_DB / 20) || level < (levels[slot - 1] ?? 0) || level <= (levels[slot + 1] ?? 0)) continue;
    bars.push({ at: times[slot]!, db: 20 * Math.log10(level) });
  }
  return bars.length <= most ? bars : [...bars].sort((a, b) => b.db - a.db).slice(0, most);
}

/** Seconds worth showing: whole bars past the last arrival, one at least, none after that in which the echogram ends. */
export function usefulSeconds(echogram: Echogram, secondsPerBar: number): number {
  const last = (levels: Float32Array) => levels.findLastIndex((level) => level >= 10 ** (FLOOR_DB / 20));
  const slot = Math.max(last(echogram.left), last(echogram.right)) + 1;
  const needed = (slot * echogram.seconds) / echogram.left.length;
  const bars = Math.min(Math.ceil(needed / secondsPerBar + 0.05), Math.ceil(echogram.seconds / secondsPerBar - 1e-6));
  return Math.max(1, bars) * secondsPerBar;
}

/** Seconds to a little past the last arrival. */
export function loudSeconds(echogram: Echogram): number {
  const times = [
    ...barsOf(echogram.left, echogram.leftSeconds, Infinity),
    ...barsOf(echogram.right, echogram.rightSeconds, Infinity),
  ];
  return times.length === 0 ? 0.05 : 1.15 * times.reduce((last, { at }) => Math.max(last, at), 0);
}
