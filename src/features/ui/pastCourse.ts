import { evenly, minus, type ChartAxis } from './axes';
import type { ChartLine, Ink } from './Chart';

/** The last seconds, now at the right. */
export const pastAxis = (seconds: number): ChartAxis => ({
  title: 's',
  min: -seconds,
  max: 0,
  scale: 'linear',
  ticks: evenly(-seconds, 0, 4),
  word: (value) => (value === 0 ? 'now' : minus(String(value))),
});

/** Values over the last seconds, drawn as a course that moves to the left. */
export class PastCourse {
  private readonly points: { at: number; x: number; y: number }[] = [];
  readonly line: ChartLine;

  /** @param reading what the hover reading says of a value, so many seconds ago */
  constructor(
    private readonly seconds: number,
    name: string,
    ink: Ink,
    reading: (value: string, ago: string) => string,
    dashed = false,
  ) {
    this.line = {
      name,
      ink,
      dashed,
      marks: 'none',
      points: this.points,
      reading: (x, y) => reading(minus(y.toFixed(1)), `${(-x).toFixed(1)} s ago`),
    };
  }

  /** The newest value; null before the first. */
  get last(): number | null {
    return this.points.at(-1)?.y ?? null;
  }

  /** @param value what it is at `now`, in seconds; null where there is nothing to tell */
  move(now: number, value: number | null): void {
    const { points } = this;
    if (value !== null) points.push({ at: now, x: 0, y: value });
    while (points.length > 0 && points[0]!.at < now - this.seconds) points.shift();
    for (const point of points) point.x = point.at - now;
  }
}
