import { keyName } from '@/core/effects/pitchNames';
import { degreeOf, nearestInScale, type Scale } from '@/core/effects/scaleKeys';
import type { ChartAxis } from '../../ui/axes';
import type { ChartLine, Ink } from '../../ui/Chart';

/** Places along the picture. */
const PLACES = 480;
/** Keys shown at least, around what is sung. */
const KEYS_SHOWN = 18;
/** Semitones from one place to the next that are no glide. */
const LEAP = 4;
/** A pitch farther than this from every key of the scale is beside it. */
const BESIDE = 0.35;

/** Pitches of a source and of what sings with it over time, on the lines of the key; moved in place. */
export class PitchCourse {
  readonly lines: readonly ChartLine[];
  readonly keys: ChartAxis;
  private readonly points: { x: number; y: number }[][];
  private readonly astray: { x: number; y: number }[];
  private last = -1;

  /**
   * @param names of the courses, the source first
   * @param span of the picture, in seconds
   * @param middle key around which keys are shown
   * @param before what was drawn around another key, which stays
   */
  constructor(
    names: readonly string[],
    private readonly span: number,
    private readonly scale: Scale,
    middle: number,
    before?: PitchCourse,
  ) {
    const course = () => Array.from({ length: PLACES }, (_, n) => ({ x: (n * span) / PLACES, y: NaN }));
    this.points = names.map(course);
    this.astray = course();
    if (before?.span === span) {
      before.points.forEach((points, n) => points.forEach(({ y }, at) => (this.points[n]![at]!.y = y)));
      before.astray.forEach(({ y }, at) => (this.astray[at]!.y = y));
      this.last = before.last;
    }
    const [min, max] = [middle - KEYS_SHOWN / 2, middle + KEYS_SHOWN / 2];
    const ticks = Array.from({ length: KEYS_SHOWN + 1 }, (_, n) => Math.round(min) + n);
    this.keys = {
      title: 'keys of the scale',
      untitled: true,
      min,
      max,
      scale: 'linear',
      ticks: ticks.filter((key) => degreeOf(key, scale) >= 0),
      word: (key) => `${degreeOf(key, scale) + 1} · ${keyName(key)}`,
    };
    const line = (name: string, ink: Ink, points: { x: number; y: number }[], dashed: boolean): ChartLine => ({
      name,
      ink,
      dashed,
      marks: 'none',
      points,
      reading: (x, y) => `${name}: ${keyName(Math.round(y))} at ${x.toFixed(2)} s`,
    });
    this.lines = [
      ...names.map((name, n) => line(name, n === 0 ? 'dry' : `shade-${n}`, this.points[n]!, n > 0)),
      { ...line('beside the key', 'ink', this.astray, false), marks: 'dots' },
    ];
  }

  /** @param keys of each course now, NaN where it has none */
  put(second: number, keys: readonly number[]): void {
    const place = Math.min(PLACES - 1, Math.max(0, Math.floor((second / this.span) * PLACES)));
    const from = this.last >= 0 && place > this.last && place - this.last < 8 ? this.last + 1 : place;
    for (let n = from; n <= place; n++) {
      this.points.forEach((points, course) => {
        const [key, before] = [keys[course] ?? NaN, points[n - 1]?.y ?? NaN];
        // A leap is no line.
        points[n]!.y = Math.abs(key - before) > LEAP ? NaN : key;
      });
      const sung = keys[0] ?? NaN;
      const off = Math.abs(sung - nearestInScale(sung, this.scale));
      this.astray[n]!.y = off > BESIDE ? sung : NaN;
    }
    // The next points are from the round before: a gap marks the present.
    for (let n = place + 1; n < Math.min(PLACES, place + 7); n++) {
      for (const points of this.points) points[n]!.y = NaN;
      this.astray[n]!.y = NaN;
    }
    this.last = place;
  }
}
