import type { Picture } from '@/core/analysis/pictures';
import { decibels, evenly, frequencyAxis, minus, placeOn, roundTicks, type ChartAxis } from '../../ui/axes';

/** Milliseconds below two seconds. */
const seconds = (max: number): ChartAxis => {
  const factor = max < 2 ? 1000 : 1;
  const { ticks, digits } = roundTicks(0, max * factor, 6);
  return {
    title: max < 2 ? 'ms' : 's',
    min: 0,
    max,
    scale: 'linear',
    ticks: ticks.map((tick) => tick / factor),
    word: (value) => (value * factor).toFixed(digits),
  };
};

const units = (min: number, max: number, title: string): ChartAxis => ({
  title,
  min,
  max,
  scale: 'linear',
  ticks: evenly(min, max, 4),
  word: (value) => minus(String(value)),
});

/** Range of a response around 0 dB; a cut may leave the picture where it falls away. */
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
export function axesOf(picture: Picture): { x: ChartAxis; y: ChartAxis } {
  const last = picture.x.at(-1) ?? 1;
  switch (picture.kind) {
    case 'response': {
      const most = Math.max(0, ...picture.lines.map((line) => furthest(line.y)));
      const reach = most > 18 ? 36 : most > 11 ? 18 : 12;
      return { x: frequencyAxis, y: decibels(-reach, reach, reach / 3, 'dB') };
    }
    case 'levels':
      return { x: decibels(-60, 0, 10, 'dB in'), y: decibels(-60, 0, 10, 'dB out') };
    case 'hysteresis':
      return { x: decibels(-80, 0, 10, 'dB in'), y: decibels(-80, 0, 10, 'dB out') };
    case 'shape':
      return { x: units(-1, 1, 'in'), y: units(-1, 1, 'out') };
    case 'motion':
      return { x: seconds(last), y: units(0, 1, 'gain') };
    case 'comb':
      return { x: frequencyAxis, y: decibels(-48, 12, 12, 'dB') };
    case 'delays': {
      const [low, high] = reachOf(picture.lines.slice(0, picture.lines.length / 2), 0.2);
      const { ticks, digits } = roundTicks(low, high, 4);
      return { x: seconds(last), y: { ...units(low, high, 'ms'), ticks, word: (value) => value.toFixed(digits) } };
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
    const px = placeOn(axes.x, picture.x[i]!) * width;
    const py = (1 - placeOn(axes.y, y[i]!)) * height;
    path += `${i === 0 ? 'M' : 'L'}${px.toFixed(1)} ${py.toFixed(1)}`;
  }
  return path;
}
