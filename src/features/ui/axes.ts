export interface ChartAxis {
  readonly title: string;
  /** The title is for tables alone: its ticks say what it is. */
  readonly untitled?: boolean;
  readonly min: number;
  readonly max: number;
  readonly scale: 'linear' | 'log';
  readonly ticks: readonly number[];
  readonly word: (value: number) => string;
}

/** Position of a value on an axis, 0 to 1; values beyond the axis are clipped a little outside of it. */
export function placeOn({ min, max, scale }: ChartAxis, value: number): number {
  if (scale === 'log') return Math.min(1, Math.max(0, Math.log(value / min) / Math.log(max / min)));
  return Math.min(3, Math.max(-2, (value - min) / (max - min)));
}

/** From 20 Hz to 20 kHz. */
export const frequencyAxis: ChartAxis = {
  title: 'Hz',
  min: 20,
  max: 20000,
  scale: 'log',
  ticks: [50, 100, 200, 500, 1000, 2000, 5000, 10000],
  word: (hz) => (hz >= 1000 ? `${hz / 1000}k` : String(hz)),
};

export const evenly = (min: number, max: number, count: number) =>
  Array.from({ length: count + 1 }, (_, i) => min + ((max - min) * i) / count);

/**
 * Round values within an axis, so many at most: multiples of 1, 2 or 5 times a power of ten.
 * @returns them with the digits behind the point that tell them apart
 */
export function roundTicks(min: number, max: number, most: number): { ticks: number[]; digits: number } {
  const least = (max - min) / most;
  const power = 10 ** Math.floor(Math.log10(least));
  const step = [1, 2, 5, 10].map((one) => one * power).find((one) => one >= least * (1 - 1e-9))!;
  const digits = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const first = Math.ceil(min / step - 1e-9);
  const count = Math.max(0, Math.floor(max / step + 1e-9) - first + 1);
  return { ticks: Array.from({ length: count }, (_, n) => Number(((first + n) * step).toFixed(digits))), digits };
}

export const minus = (text: string) => text.replace('-', '−');

export const decibels = (min: number, max: number, step: number, title: string): ChartAxis => ({
  title,
  min,
  max,
  scale: 'linear',
  ticks: evenly(min, max, Math.round((max - min) / step)),
  word: (db) => (db > 0 ? `+${db}` : minus(String(db))),
});
