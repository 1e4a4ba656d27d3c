import { FourierTransform } from '../dsp/fft';
import { hann } from '../math/windows';

const SIZE = 8192;
const HOP = SIZE / 4;
const LOWEST_HZ = 20;
const HIGHEST_HZ = 20000;
/** Bands this far below the loudest are masked, and nothing to be judged by, in dB. */
const UNHEARD_DB = 40;
/** Sides are compared in level by bands of a third of an octave, of at least so many bins. */
const FEWEST_BINS = 4;
/** Loss reported where everything cancels, in dB. */
const ALL_DB = 60;

/** Powers of both sides and what they have in common, by bins of a transform, summed over a sound. */
export interface CrossSpectra {
  readonly binHz: number;
  readonly left: Float64Array;
  readonly right: Float64Array;
  /** Left times the conjugate of right. */
  readonly re: Float64Array;
  readonly im: Float64Array;
  /**
   * The cross power if both sides were in phase: per window and third of an octave, the geometric mean of their powers.
   * `re` is smaller by what cancels; the arithmetic mean of the powers is larger by what is panned.
   */
  readonly inStep: Float64Array;
}

/** Those of silence. */
export const noSpectra = (binHz: number, bins: number): CrossSpectra => ({
  binHz,
  left: new Float64Array(bins),
  right: new Float64Array(bins),
  re: new Float64Array(bins),
  im: new Float64Array(bins),
  inStep: new Float64Array(bins),
});

/** The first bins of bands of a third of an octave, and the one behind the last. */
function bandStarts(bins: number): number[] {
  const starts = [1];
  for (let at = 1; at < bins; starts.push(at))
    at = Math.min(bins, Math.max(at + FEWEST_BINS, Math.floor(at * 2 ** (1 / 3))));
  return starts;
}

/** Made once: it takes as long as many transforms. */
let tools: {
  readonly transform: FourierTransform;
  readonly window: Float64Array;
  readonly starts: readonly number[];
} | null = null;

/**
 * Welch's method over both sides at once (Welch, 1967), for a sound that comes part by part: Hann windows of 8192 frames, each
 * a quarter further than the last, so that every frame counts as much.
 */
export class SpectraMeter {
  private readonly spectra: CrossSpectra;
  private readonly powers = [new Float64Array(SIZE / 2), new Float64Array(SIZE / 2)] as const;
  private readonly re = new Float64Array(SIZE);
  private readonly im = new Float64Array(SIZE);
  /** Frames of the next window; those of the first lie mostly ahead of the sound. */
  private readonly held = [new Float32Array(SIZE), new Float32Array(SIZE)] as const;
  private filled = SIZE - HOP;

  constructor(sampleRateHz: number) {
    tools ??= { transform: new FourierTransform(SIZE), window: hann(SIZE), starts: bandStarts(SIZE / 2) };
    this.spectra = noSpectra(sampleRateHz / SIZE, SIZE / 2);
  }

  /** @param left,right the next frames of both sides */
  take(left: Float32Array, right: Float32Array): void {
    for (let at = 0; at < left.length;) {
      const count = Math.min(SIZE - this.filled, left.length - at);
      this.held[0].set(left.subarray(at, at + count), this.filled);
      this.held[1].set(right.subarray(at, at + count), this.filled);
      this.filled += count;
      at += count;
      if (this.filled === SIZE) this.next();
    }
  }

  /** Called once, behind the last part. */
  end(): CrossSpectra {
    // As long as a window holds any of the sound.
    while (this.filled > 0) {
      for (const side of this.held) side.fill(0, this.filled);
      this.next();
    }
    return this.spectra;
  }

  /** Adds the window that is held, and goes on by a quarter of it. */
  private next(): void {
    this.add();
    for (const side of this.held) side.copyWithin(0, HOP);
    this.filled -= HOP;
  }

  private add(): void {
    const { spectra, powers, re, im, held } = this;
    const { transform, window, starts } = tools!;
    for (let n = 0; n < SIZE; n++) {
      re[n] = held[0][n]! * window[n]!;
      im[n] = held[1][n]! * window[n]!;
    }
    transform.forward(re, im);
    for (let bin = 1; bin < SIZE / 2; bin++) {
      const mirror = SIZE - bin;
      // Two real transforms at once: the even part is left, the odd part right.
      const [lr, li] = [(re[bin]! + re[mirror]!) / 2, (im[bin]! - im[mirror]!) / 2];
      const [rr, ri] = [(im[bin]! + im[mirror]!) / 2, (re[mirror]! - re[bin]!) / 2];
      powers[0][bin] = lr * lr + li * li;
      powers[1][bin] = rr * rr + ri * ri;
      spectra.left[bin]! += powers[0][bin]!;
      spectra.right[bin]! += powers[1][bin]!;
      spectra.re[bin]! += lr * rr + li * ri;
      spectra.im[bin]! += li * rr - lr * ri;
    }
    for (let band = 1; band < starts.length; band++) addInStep(spectra, powers, starts[band - 1]!, starts[band]!);
  }
}

/** The same of a sound that is there as a whole. */
export function crossSpectra(left: Float32Array, right: Float32Array, sampleRateHz: number): CrossSpectra {
  const meter = new SpectraMeter(sampleRateHz);
  meter.take(left, right);
  return meter.end();
}

/** Adds what a band of one window would have in common in step, to its bins by their shares of the power. */
function addInStep(
  { inStep }: CrossSpectra,
  [left, right]: readonly [Float64Array, Float64Array],
  from: number,
  to: number,
): void {
  let [l, r] = [0, 0];
  for (let bin = from; bin < to; bin++) {
    l += left[bin]!;
    r += right[bin]!;
  }
  if (l === 0 || r === 0) return;
  const share = Math.sqrt(l * r) / (l + r);
  for (let bin = from; bin < to; bin++) inStep[bin]! += share * (left[bin]! + right[bin]!);
}

/** Width of a band and its loss in mono. */
export interface FieldBand {
  readonly fromHz: number;
  readonly toHz: number;
  /** Level of both sides within the whole, in dB. */
  readonly shareDb: number;
  /** -1 to 1; null where there is nothing. */
  readonly correlation: number | null;
  /** Decibels that cancel when both sides are averaged; 60 where all does, null where there is nothing. */
  readonly monoLossDb: number | null;
  /** Decibels that mono is softer by because the sides differ in level, 0 to 3; null where there is nothing. */
  readonly panningDb: number | null;
}

/** The middle of a band, by octaves. */
export const centreHz = ({ fromHz, toHz }: FieldBand): number => Math.sqrt(fromHz * toHz);

/** A sound between its two sides. */
export interface StereoField {
  readonly octaves: readonly FieldBand[];
  readonly correlation: number | null;
  readonly monoLossDb: number | null;
  readonly panningDb: number | null;
  /** Level of left over right, in dB; null in silence. */
  readonly tiltDb: number | null;
  /** The third of an octave that loses most in mono of those that are heard; null where none loses. */
  readonly worst: FieldBand | null;
}

/** Measures of the band between two frequencies. */
function bandOf(spectra: CrossSpectra, fromHz: number, toHz: number, whole: number): FieldBand {
  let [left, right, common, inStep] = [0, 0, 0, 0];
  const last = Math.min(spectra.left.length, Math.ceil(toHz / spectra.binHz));
  for (let bin = Math.max(1, Math.ceil(fromHz / spectra.binHz)); bin < last; bin++) {
    left += spectra.left[bin]!;
    right += spectra.right[bin]!;
    common += spectra.re[bin]!;
    inStep += spectra.inStep[bin]!;
  }
  const sum = left + right;
  const shareDb = sum > 0 && whole > 0 ? 10 * Math.log10(sum / whole) : -Infinity;
  if (sum <= 0) return { fromHz, toHz, shareDb, correlation: null, monoLossDb: null, panningDb: null };
  const kept = Math.max(0, (sum + 2 * common) / (sum + 2 * inStep));
  return {
    fromHz,
    toHz,
    shareDb,
    correlation: left > 0 && right > 0 ? common / Math.sqrt(left * right) : null,
    monoLossDb: kept > 10 ** (-ALL_DB / 10) ? Math.max(0, -10 * Math.log10(kept)) : ALL_DB,
    panningDb: Math.max(0, 10 * Math.log10((2 * sum) / (sum + 2 * inStep))),
  };
}

/**
 * Correlation and mono loss by octave and in all, tilt between the sides, and the third of an octave that suffers most
 * in mono. Mono is the average of both sides, heard from both: one and the same sound on both loses nothing, two that
 * have nothing in common lose 3 dB, and what is only louder on one side is softer in mono but not lost.
 */
export function fieldOf(spectra: CrossSpectra): StereoField {
  const all = bandOf(spectra, LOWEST_HZ, HIGHEST_HZ, 1);
  const whole = 10 ** (all.shareDb / 10);
  /** Bands stand about 1 kHz, as is usual. */
  const bands = (perOctave: number) => {
    const lowest = Math.ceil(Math.log2(LOWEST_HZ / 1000) * perOctave);
    const highest = Math.floor(Math.log2(HIGHEST_HZ / 1000) * perOctave);
    return Array.from({ length: highest - lowest + 1 }, (_, n) => 1000 * 2 ** ((lowest + n) / perOctave)).map(
      (centre) => bandOf(spectra, centre * 2 ** (-0.5 / perOctave), centre * 2 ** (0.5 / perOctave), whole),
    );
  };
  const thirds = bands(3).filter(({ monoLossDb }) => monoLossDb !== null);
  const loudest = Math.max(...thirds.map(({ shareDb }) => shareDb));
  const worst = thirds
    .filter(({ shareDb, monoLossDb }) => shareDb > loudest - UNHEARD_DB && monoLossDb! > 0.05)
    .reduce<FieldBand | null>((most, one) => (most && most.monoLossDb! >= one.monoLossDb! ? most : one), null);
  const [left, right] = [sumOf(spectra.left), sumOf(spectra.right)];
  return {
    octaves: bands(1),
    correlation: all.correlation,
    monoLossDb: all.monoLossDb,
    panningDb: all.panningDb,
    tiltDb: left > 0 && right > 0 ? 10 * Math.log10(left / right) : null,
    worst,
  };
}

/** The field of a stereo sound. */
export function measureField(left: Float32Array, right: Float32Array, sampleRateHz: number): StereoField {
  return fieldOf(crossSpectra(left, right, sampleRateHz));
}

const sumOf = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0);
