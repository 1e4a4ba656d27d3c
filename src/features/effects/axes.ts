import type { Picture } from '@/core/analysis/pictures';

/** How one direction of a picture is divided. */
export interface Axis {
  readonly place: (value: number) => number;
  readonly ticks: readonly (readonly [value: number, word: string])[];
  readonly title: string;
}

/** Values outside the axis lie outside the plot, which cuts them off. */
const linear =
  (low: number, high: number) =>
  (value: number): number =>
    Math.min(3, Math.max(-2, (value - low) / (high - low)));

/** From 20 Hz to 20 kHz. */
export const frequencyAxis: Axis = {
  place: (hz) => Math.min(1, Math.max(0, Math.log(hz / 20) / Math.log(1000))),
  ticks: [
    [50, '50'],
    [100, '100'],
    [200, '200'],
    [500, '500'],
    [1000, '1k'],
    [2000, '2k'],
    [5000, '5k'],
    [10000, '10k'],
  ],
  title: 'Hz',
};

const decibels = (low: number, high: number, step: number, title: string): Axis => ({
  place: linear(low, high),
  ticks: Array.from({ length: Math.round((high - low) / step) + 1 }, (_, i) => {
    const value = low + i * step;
    return [value, value > 0 ? `+${value}` : String(value)] as const;
  }),
  title,
});

const seconds = (length: number): Axis => ({
  place: linear(0, length),
  ticks: Array.from({ length: 6 }, (_, i) => {
    const value = (i * length) / 5;
    return [value, length < 2 ? `${Math.round(value * 1000)}` : value.toFixed(1)] as const;
  }),
  title: length < 2 ? 'ms' : 's',
});

/** How far a response goes from 0 dB at its turns; where a cut falls away it may leave the picture. */
function furthest(y: Float64Array): number {
  let most = 0;
  for (let i = 1; i < y.length - 1; i++) {
    const turns = (y[i]! - y[i - 1]!) * (y[i + 1]! - y[i]!) <= 0;
    if (turns || y[i]! > 0) most = Math.max(most, Math.abs(y[i]!));
  }
  return most;
}

/** Lowest and highest value of some lines with a margin, at least `least` apart. */
export function reachOf(lines: Picture['lines'], least: number): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const { y } of lines) {
    for (const value of y) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
  }
  if (low > high) return [0, least];
  const margin = Math.max(0.08 * (high - low), (least - (high - low)) / 2);
  return [low - margin, high + margin];
}

/** The axes on which each kind of picture is drawn; a response shows as many decibels as it needs. */
export function axesOf(picture: Picture): { x: Axis; y: Axis } {
  const last = picture.x.at(-1) ?? 1;
  switch (picture.kind) {
    case 'response': {
      const most = Math.max(0, ...picture.lines.map((line) => furthest(line.y)));
      const reach = most > 18 ? 36 : most > 11 ? 18 : 12;
      return { x: frequencyAxis, y: decibels(-reach, reach, reach / 3, 'dB') };
    }
    case 'levels':
      return { x: decibels(-60, 0, 10, 'dB in'), y: decibels(-60, 0, 10, 'dB out') };
    case 'shape': {
      const units: Axis = {
        place: linear(-1, 1),
        ticks: [
          [-1, '-1'],
          [-0.5, '-0.5'],
          [0, '0'],
          [0.5, '0.5'],
          [1, '1'],
        ],
        title: '',
      };
      return { x: { ...units, title: 'in' }, y: { ...units, title: 'out' } };
    }
    case 'motion':
      return {
        x: seconds(last),
        y: { place: linear(0, 1), ticks: [0, 0.25, 0.5, 0.75, 1].map((v) => [v, String(v)] as const), title: 'gain' },
      };
    case 'comb':
      return { x: frequencyAxis, y: decibels(-48, 12, 12, 'dB') };
    case 'delays': {
      const [low, high] = reachOf(picture.lines.slice(0, picture.lines.length / 2), 0.2);
      return { x: seconds(last), y: { place: linear(low, high), ticks: [], title: 'ms' } };
    }
    case 'burst':
      return { x: seconds(last), y: decibels(-48, 12, 12, 'dB') };
  }
}

/** A line of a picture as a path within a box, its origin at the bottom left. */
export function pathOf(picture: Picture, y: Float64Array, width: number, height: number): string {
  const axes = axesOf(picture);
  let path = '';
  for (let i = 0; i < y.length; i++) {
    const px = axes.x.place(picture.x[i]!) * width;
    const py = (1 - axes.y.place(y[i]!)) * height;
    path += `${i === 0 ? 'M' : 'L'}${px.toFixed(1)} ${py.toFixed(1)}`;
  }
  return path;
}
