import { cos } from '../math/elementary';
import { kaiser, kaiserBeta, sinc } from '../math/windows';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { LONGEST_BLOCK } from './longestBlock';

/**
 * The interpolator of ITU-R BS.1770-4, annex 2: weights of four points between two samples, [point][tap], the oldest sample
 * first, 1/8 of a frame after the first and every 1/4 from there. The last are the first ones backwards.
 */
export const STANDARD: readonly (readonly number[])[] = standardRows();
/** Weights of the middle between two samples, by a windowed sinc of 48 taps. */
export const SHARP = middleRow(48, (frames) => kaiser(frames / 24, kaiserBeta(50)));
/**
 * The same by 142 taps, to reach close to half the rate. The window is flat over 52 frames to each side, so that bursts at
 * half the rate, of up to 64 frames, are read nearly as high as by an endless filter.
 */
export const LONG = middleRow(142, (frames) => {
  const beyond = Math.max(0, (frames - 52) / 19.5);
  return beyond < 1 ? 0.5 + 0.5 * cos(Math.PI * beyond) : 0;
});
/**
 * Weights of the point half-way between two samples of twice the rate, the nearest pair first: at most 0.033 dB from level up
 * to half the single rate (minimax).
 */
export const QUARTER = [0.60223255, -0.12693979, 0.02470724] as const;
/** Frames by which a peak is known later than the sample before it. */
export const PEAK_LATENCY = LONG.length / 2 + 1;

function standardRows(): number[][] {
  const first = [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875,
    -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ];
  const second = [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
    -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ];
  return [first.toReversed(), second.toReversed(), second, first];
}

/** The middle of two samples by a windowed sinc of an even number of taps, the weights summing to 1. */
function middleRow(taps: number, windowAt: (framesAway: number) => number): readonly number[] {
  const row = Array.from({ length: taps }, (_, tap) => {
    const x = tap - taps / 2 + 0.5;
    return sinc(x) * windowAt(Math.abs(x));
  });
  const sum = row.reduce((total, weight) => total + weight, 0);
  return row.map((weight) => weight / sum);
}

const sizeOf = (row: readonly number[]) => row.reduce((sum, weight) => sum + Math.abs(weight), 0);

/** Weights of the quarter point, made of samples and middles, as one row. */
function quarterRow(middle: readonly number[]): number[] {
  const reach = middle.length / 2;
  const row = new Array<number>(middle.length + 4).fill(0);
  QUARTER.forEach((weight, pair) => {
    for (const half of [-pair, 1 + pair]) {
      const at = Math.floor(half / 2);
      if (half % 2 === 0) row[reach + 1 + at]! += weight;
      else middle.forEach((x, tap) => (row[2 + at + tap]! += weight * x));
    }
  });
  return row;
}

/**
 * The most by which a peak that is read can pass the largest sample around it; the parabola through three points rises over
 * them by a quarter at most.
 */
export const HIGHEST_RISE = 1.25 * Math.max(...[LONG, quarterRow(LONG), ...STANDARD].map(sizeOf));

/**
 * Weights as `limiter.as.ts` takes them, by pairs of samples as far from the middle, the nearest first. Of the standard's
 * points that are mirrored both share the even part of their weights, for the sum of a pair, and the odd one for its
 * difference.
 */
function foldedWeights(): number[] {
  const older = (row: readonly number[], pair: number) => row[row.length / 2 - 1 - pair]!;
  const newer = (row: readonly number[], pair: number) => row[row.length / 2 + pair]!;
  const weights: number[] = [];
  for (let pair = 0; pair < STANDARD[0]!.length / 2; pair++) {
    for (const row of STANDARD.slice(0, 2)) {
      weights.push((older(row, pair) + newer(row, pair)) / 2, (older(row, pair) - newer(row, pair)) / 2);
    }
  }
  for (const row of [SHARP, LONG]) for (let pair = 0; pair < row.length / 2; pair++) weights.push(newer(row, pair));
  return [...weights, ...QUARTER];
}

let ready = false;

/** Gives the WebAssembly kernels their weights; once is enough. */
export function readyPeaks(): void {
  if (ready) return;
  const weights = foldedWeights();
  new Float32Array(wasm().buffer, wasm().kernels.peakWeights(), weights.length).set(weights);
  ready = true;
}

/**
 * Inter-sample peak of one channel that comes part by part: the highest that the interpolator of ITU-R BS.1770-4 annex 2
 * finds, or either of two longer ones at four times the rate, with a parabola through the highest point. What lies close
 * to half the rate is read higher than by the standard alone; a tone up to 0.41 of the rate within 0.1 dB.
 */
export class TruePeakMeter {
  private readonly memory = new Arena();
  private readonly line: Float64Array;
  private readonly block: Float64Array;
  /** Frames in the block. */
  private held = 0;
  private peak = 0;

  constructor() {
    readyPeaks();
    this.line = this.memory.doubles(wasm().kernels.peakBytes() / 8);
    this.block = this.memory.doubles(LONGEST_BLOCK);
  }

  /** @param part the next samples */
  take(part: Float32Array): void {
    for (let at = 0; at < part.length;) {
      const count = Math.min(part.length - at, LONGEST_BLOCK - this.held);
      this.block.set(part.subarray(at, at + count), this.held);
      this.held += count;
      at += count;
      if (this.held === LONGEST_BLOCK) this.measure();
    }
  }

  private measure(): void {
    const { line, block } = this;
    for (const x of block) this.peak = Math.max(this.peak, Math.abs(x));
    const { kernels } = wasm();
    const found = kernels.truePeak(line.byteOffset, block.byteOffset, LONGEST_BLOCK, this.peak / HIGHEST_RISE);
    this.peak = Math.max(this.peak, found);
    this.held = 0;
  }

  /**
   * Called once, behind the last part; frees the memory.
   * @returns the largest |value|, not less than that of a sample
   */
  end(): number {
    for (let left = this.held + PEAK_LATENCY; left > 0; left -= LONGEST_BLOCK) {
      this.block.fill(0, this.held);
      this.measure();
    }
    this.free();
    return this.peak;
  }

  /** For who gives up before the end. */
  free(): void {
    this.memory.free();
  }
}

/** The same of a channel that is there as a whole. */
export function truePeakOf(samples: Float32Array): number {
  const meter = new TruePeakMeter();
  meter.take(samples);
  return meter.end();
}
