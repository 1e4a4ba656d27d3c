import { cos, sin } from '../../math/elementary';
import { settled } from '../../math/settled';
import { CURVES, curveAt, FOLD_END, type CurveName, type Side } from '../../dsp/curves';
import { DRIVE_LATENCY, HELD_BACK, offsetPole, STAGES, STOPBANDS_DB, type Times } from '../../dsp/driveStage';
import { HalfBandTwin } from './halfBand';

const round = Math.fround;
/** Added to each step, so that none is nothing. */
const LEAST = round(1e-20);
/** Steps of the fold below this part of 1 and where it is count as none. */
const NEAR = 1e-4;
/** Added and taken away again it leaves nothing of what is under -280 dBFS: half of its last bit. */
const FLOOR = round(1e-7);
const TWELFTH = round(1 / 12);

/** Mean of a curve along a way from one sample to the next, and that weighed by how late: from 0 to 1. */
interface Means {
  readonly whole: number;
  readonly late: number;
}

/** Without what is softer than the floor. */
function floored(x: number): number {
  return round(round(x + FLOOR) - FLOOR);
}

function clamp(x: number, low: number, high: number): number {
  const under = high < x ? high : x;
  return under < low ? low : under;
}

function polynomial({ square, cube }: Side, c: number): number {
  if (cube !== 0) return round(c * round(1 + round(round(cube) * round(c * c))));
  return square === 0 ? c : round(c * round(1 + round(square * c)));
}

function part(x: number, factor: number): number {
  return round(round(x * round(1 + factor)) - x);
}

/** One side of a curve along a way: constant up to where it enters the span, and from where it leaves it. */
function along(side: Side, a: number, b: number, inverse: number): Means {
  const low = round(side.low);
  const from = clamp(a, low, side.high);
  const to = clamp(b, low, side.high);
  const enters = clamp(round(round(from - a) * inverse), 0, 1);
  const leaves = to === b ? 1 : clamp(round(round(to - a) * inverse), 0, 1);
  const inside = round(leaves - enters);
  const first = polynomial(side, from);
  const last = polynomial(side, to);
  const way = round(to - from);
  const square = round(way * way);
  const { cube } = side;
  let mean = round(0.5 * round(first + last));
  if (cube !== 0) mean = round(mean - part(round(from + to), round(round(round(cube) / 4) * square)));
  else if (side.square !== 0) mean = round(mean - round(round(side.square / 6) * square));
  let lean = round(round(0.5 * mean) + round(TWELFTH * round(last - first)));
  if (cube !== 0) lean = round(lean - part(way, round(round(round(cube) / 120) * square)));
  const before = round(enters * first);
  const after = round(round(1 - leaves) * last);
  const ends = round(round(enters * before) + round(round(1 + leaves) * after));
  const between = round(inside * round(round(enters * mean) + round(inside * lean)));
  return {
    whole: round(round(before + round(inside * mean)) + after),
    late: round(round(0.5 * ends) + between),
  };
}

function meansBetween(name: Exclude<CurveName, 'fold'>, a: number, b: number): Means {
  const step = round(b - a);
  const inverse = round(1 / round(step + LEAST));
  const [first, second] = (CURVES[name] as readonly Side[]).map((side) => along(side, a, b, inverse));
  if (!second) return first!;
  return { whole: round(first!.whole + second.whole), late: round(first!.late + second.late) };
}

/** A curve averaged over three samples with a triangular weight. */
function averaged(name: Exclude<CurveName, 'fold'>, x: number, x1: number, x2: number): number {
  const next = meansBetween(name, x1, x);
  return round(meansBetween(name, x2, x1).late + round(next.whole - next.late));
}

function foldFirst(x: number): number {
  const past = Math.abs(x) - FOLD_END;
  return past > 0 ? 1 + past : 1 - cos(Math.abs(x));
}

function foldSecond(x: number): number {
  const m = Math.abs(x);
  const past = m - FOLD_END;
  const value = past > 0 ? FOLD_END - 1 + past + 0.5 * past * past : m - sin(m);
  return x < 0 ? -value : value;
}

/** Mean of the first antiderivative of a fold between two samples. */
function foldedMean(x: number, before: number): number {
  const step = x - before;
  const apart = Math.abs(step) > NEAR * (1 + Math.abs(before));
  return apart ? (foldSecond(x) - foldSecond(before)) / step : foldFirst(0.5 * (x + before));
}

/** A fold averaged over three samples, from its antiderivatives, in double precision. */
function foldBetween(x: number, x1: number, x2: number): number {
  const least = NEAR * (1 + Math.abs(x1));
  const span = x - x2;
  if (Math.abs(span) > least) return (2 * (foldedMean(x, x1) - foldedMean(x1, x2))) / span;
  const middle = 0.5 * (x + x2);
  const away = middle - x1;
  if (Math.abs(away) <= least) return curveAt('fold', 0.5 * (middle + x1));
  return (2 / away) * (foldFirst(middle) + (foldSecond(x1) - foldSecond(middle)) / away);
}

/** A drive in TypeScript: the reference for `DriveStage`. */
export class DriveTwin {
  private readonly stages = STAGES.map((pairs, n) => new HalfBandTwin(pairs, STOPBANDS_DB[n]!, 128 << n));
  private readonly curves: (CurveName | null)[] = [null, null];
  /** The last two samples that went into each curve. */
  private readonly last = [new Float32Array(2), new Float32Array(2)] as const;
  private readonly once = new Float32Array(128);
  private readonly twice = new Float32Array(256);
  private readonly four = new Float32Array(512);
  private readonly eight = new Float32Array(1024);
  /** The end of the last block at the highest rate, as far as it is still to come out. */
  private held = new Float32Array(HELD_BACK[8]);
  private times: Times = 8;
  private readonly clean = new Float32Array(DRIVE_LATENCY + 128);
  private readonly pole: number;
  private offsetIn = 0;
  private offsetOut = 0;

  constructor(sampleRate: number) {
    this.pole = offsetPole(sampleRate);
  }

  setCurves(first: CurveName | null, second: CurveName | null = null, times: Times = 8): void {
    if (times !== this.times) this.held = new Float32Array(HELD_BACK[times]);
    this.times = times;
    this.curves[0] = first;
    this.curves[1] = second;
  }

  process(
    block: Float64Array,
    frames: number,
    firstGains: Float64Array,
    secondGains: Float64Array,
    amounts: Float64Array,
  ): void {
    const { once, twice, four, eight, clean, times } = this;
    const [outer, middle, inner] = this.stages as [HalfBandTwin, HalfBandTwin, HalfBandTwin];
    for (let i = 0; i < frames; i++) {
      const x = round(block[i]!);
      clean[DRIVE_LATENCY + i] = x;
      once[i] = floored(x);
    }
    outer.up(once, frames, twice);
    middle.up(twice, 2 * frames, four);
    if (times === 8) inner.up(four, 4 * frames, eight);
    const peak = times === 8 ? eight : four;
    let padding: number = HELD_BACK[times];
    this.curves.forEach((name, place) => {
      if (name === null) return;
      this.bend(peak, name, this.last[place as 0 | 1], frames, place === 0 ? firstGains : secondGains);
      padding--;
    });
    this.pad(peak, times * frames, padding);
    if (times === 8) inner.down(eight, 4 * frames, four);
    middle.down(four, 2 * frames, twice);
    outer.down(twice, frames, once);
    for (let i = 0; i < frames; i++) {
      let driven = once[i]!;
      if (this.curves.includes('asymmetric')) {
        this.offsetOut = settled(driven - this.offsetIn + this.pole * this.offsetOut);
        this.offsetIn = driven;
        driven = this.offsetOut;
      }
      const untouched = clean[i]!;
      block[i] = amounts[i] === 1 ? driven : untouched + amounts[i]! * (driven - untouched);
    }
    clean.copyWithin(0, frames, frames + DRIVE_LATENCY);
  }

  private bend(peak: Float32Array, name: CurveName, last: Float32Array, frames: number, gains: Float64Array): void {
    const { times } = this;
    for (let i = 0; i < times * frames; i++) {
      const gain = round(gains[Math.floor(i / times)]!);
      const x = round(floored(peak[i]!) * gain);
      const out = name === 'fold' ? round(foldBetween(x, last[1]!, last[0]!)) : averaged(name, x, last[1]!, last[0]!);
      peak[i] = out * round(1 / gain);
      last[0] = last[1]!;
      last[1] = x;
    }
  }

  /** Delays the block at the highest rate by `by`, so that the whole latency is one of whole frames. */
  private pad(peak: Float32Array, length: number, by: number): void {
    const { held } = this;
    // The newest samples come last in `held`, so that another padding takes up where this one was.
    const line = Float32Array.from([...held, ...peak.subarray(0, length)]);
    peak.set(line.subarray(held.length - by, held.length - by + length));
    held.set(line.subarray(length));
  }
}
