import { COMB_PLACES, type Picture } from '@/core/analysis/pictures';
import { formatUnit } from '@/core/effects/units';
import { roundTicks, minus, type ChartAxis } from '../../ui/axes';
import { formatPitch } from '../../ui/music';
import type { ChartLine } from '../../ui/Chart';

import { reachOf } from './axes';

/** Delays that differ by more than this many times what any of them moves are drawn each against its mean. */
const FAR = 3;
/** Every so many places of a sweep one is drawn faintly. */
const GHOSTS_APART = 6;
const SHADES = 6;

const pointsOf = (x: Float64Array, y: Float64Array) => Array.from(y, (value, n) => ({ x: x[n]!, y: value }));

/** The response of a sweeping effect: where its sweep is now, moved in place, and faintly where else it comes. */
export class CombCourse {
  readonly ghosts: readonly ChartLine[];
  readonly now: readonly ChartLine[];
  private readonly points: readonly (readonly { readonly x: number; y: number }[])[];

  constructor(private readonly picture: Picture) {
    const { x, lines } = picture;
    this.points = [0, 1].map((side) => pointsOf(x, lines[side]!.y));
    this.ghosts = lines
      .filter((_, n) => n % 2 === 0 && (n / 2) % GHOSTS_APART === 0)
      .map((line, n) => ({
        name: `elsewhere ${n + 1}`,
        ink: 'soft',
        thin: true,
        marks: 'none',
        points: pointsOf(x, line.y),
        reading: (hz, db) => `elsewhere: ${reading(hz, db)}`,
      }));
    this.now = ['left', 'right'].map((name, side) => ({
      name,
      ink: side === 0 ? 'wet' : 'ink',
      dashed: side === 1,
      marks: 'none',
      points: this.points[side]!,
      reading: (hz, db) => `${name}: ${reading(hz, db)}`,
    }));
  }

  /** @param place how far the sweep is, 0 to 1 */
  move(place: number): void {
    const at = Math.round(place * COMB_PLACES) % COMB_PLACES;
    for (const side of [0, 1]) {
      const { y } = this.picture.lines[2 * at + side]!;
      this.points[side]!.forEach((point, n) => (point.y = y[n]!));
    }
  }
}

const reading = (hz: number, db: number) => `${formatUnit('dB', Number(db.toFixed(1)))} at ${formatPitch(hz)}`;

const meanOf = (y: Float64Array) => y.reduce((sum, value) => sum + value, 0) / y.length;

/** Delays as they are; where they lie much further apart than any moves, each against its mean, which its name tells. */
function comparable(lines: Picture['lines']): { lines: Picture['lines']; apart: boolean } {
  const means = lines.map(({ y }) => meanOf(y));
  const moves = Math.max(...lines.map(({ y }) => Math.max(...y) - Math.min(...y)));
  if (Math.max(...means) - Math.min(...means) <= FAR * moves) return { lines, apart: false };
  return {
    apart: true,
    lines: lines.map(({ name, y }, n) => ({
      name: `${name}, ${means[n]!.toFixed(means[n]! < 100 ? 1 : 0)} ms`,
      y: y.map((value) => value - means[n]!),
    })),
  };
}

/** Courses over time on axes of their own. */
export interface Courses {
  readonly x: ChartAxis;
  readonly y: ChartAxis;
  readonly lines: readonly ChartLine[];
}

function coursesOf(
  picture: Picture,
  lines: Picture['lines'],
  [low, high]: readonly [number, number],
  unit: string,
): Courses {
  const seconds = picture.x.at(-1)!;
  const across = roundTicks(0, seconds, 6);
  const up = roundTicks(low, high, 3);
  const digits = high - low < 2 ? 2 : high - low < 20 ? 1 : 0;
  const word = (value: number) => minus(value.toFixed(digits).replace(/^-(0(\.0+)?)$/, '$1'));
  return {
    x: {
      title: 's',
      min: 0,
      max: seconds,
      scale: 'linear',
      ticks: across.ticks,
      word: (value) => value.toFixed(across.digits),
    },
    y: {
      title: unit,
      min: low,
      max: high,
      scale: 'linear',
      ticks: up.ticks,
      word: (value) => minus(value.toFixed(up.digits)),
    },
    lines: lines.map((line, n) => ({
      name: line.name,
      ink: `shade-${(Math.floor(n / 2) % SHADES) + 1}`,
      dashed: n % 2 === 1,
      marks: 'none',
      points: pointsOf(picture.x, line.y),
      reading: (x, y) => `${line.name}: ${word(y)} ${unit}, ${x.toFixed(2)} s`,
    })),
  };
}

/** Delay of an effect over time in ms, and the pitch shift that follows from it in cents. */
export function delaysOf(picture: Picture): { delays: Courses; bends: Courses } {
  const half = picture.lines.length / 2;
  const { lines, apart } = comparable(picture.lines.slice(0, half));
  const [low, high] = reachOf(lines, 0.2);
  const bends = picture.lines.slice(half);
  const [down, up] = reachOf(bends, 2);
  const most = Math.max(Math.abs(down), Math.abs(up));
  return {
    delays: coursesOf(picture, lines, [apart ? low : Math.max(0, low), high], apart ? 'ms from its mean' : 'ms'),
    bends: coursesOf(picture, bends, [-most, most], 'cents'),
  };
}

/** A line across a chart where a sweep is now, moved in place. */
export class NowLine {
  private readonly points: { x: number; y: number }[];
  readonly lines: readonly ChartLine[];

  constructor({ min, max }: ChartAxis) {
    this.points = [
      { x: 0, y: min },
      { x: 0, y: max },
    ];
    this.lines = [{ name: 'now', ink: 'ink', marks: 'none', points: this.points, reading: () => 'now' }];
  }

  move(seconds: number): void {
    for (const point of this.points) point.x = seconds;
  }
}
