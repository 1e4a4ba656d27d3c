/**
 * Programme loudness after ITU-R BS.1770-4: K-weighting, blocks of 400 ms with 75 % overlap, an absolute gate at
 * -70 LUFS and a relative gate 10 LU under the mean. Coefficients for any rate by the bilinear transform of the
 * analogue prototypes that give the standard's tables at 48 kHz (De Man, "Evaluation of implementations of the EBU
 * R128 loudness measurement", 2018).
 */

import { K_LOW_CUT, K_SHELF } from '../dsp/kWeighting';

interface Biquad {
  readonly b0: number;
  readonly b1: number;
  readonly b2: number;
  readonly a1: number;
  readonly a2: number;
}

function highShelf(rate: number): Biquad {
  const { hz, q, high, band } = K_SHELF;
  const k = Math.tan((Math.PI * hz) / rate);
  const a0 = 1 + k / q + k * k;
  return {
    b0: (high + (band * k) / q + k * k) / a0,
    b1: (2 * (k * k - high)) / a0,
    b2: (high - (band * k) / q + k * k) / a0,
    a1: (2 * (k * k - 1)) / a0,
    a2: (1 - k / q + k * k) / a0,
  };
}

function highPass(rate: number): Biquad {
  const { hz, q } = K_LOW_CUT;
  const k = Math.tan((Math.PI * hz) / rate);
  const a0 = 1 + k / q + k * k;
  return { b0: 1, b1: -2, b2: 1, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 };
}

/** K-weighting of one channel, part by part. */
class Weighting {
  private readonly stages: readonly { readonly filter: Biquad; s1: number; s2: number }[];

  constructor(rate: number) {
    this.stages = [highShelf(rate), highPass(rate)].map((filter) => ({ filter, s1: 0, s2: 0 }));
  }

  /** The next samples of the channel, weighted. */
  next(part: Float32Array): Float64Array {
    const samples = Float64Array.from(part);
    for (const stage of this.stages) {
      const { b0, b1, b2, a1, a2 } = stage.filter;
      let { s1, s2 } = stage;
      for (let i = 0; i < samples.length; i++) {
        const x = samples[i]!;
        const y = b0 * x + s1;
        s1 = b1 * x - a1 * y + s2;
        s2 = b2 * x - a2 * y;
        samples[i] = y;
      }
      stage.s1 = s1;
      stage.s2 = s2;
    }
    return samples;
  }
}

/** Loudness in LUFS of a mean power of all channels. */
const level = (power: number) => -0.691 + 10 * Math.log10(power);

/** Channel weights (BS.1770-4, tables 3 and 4): surround channels count more, the low-frequency one not at all. */
const BESIDE = 1.41;
const LOW_FREQUENCY = 0;
/** By the number of channels, in the usual order of a file: left, right, centre, low frequency, back, beside. */
const WEIGHTS: Readonly<Record<number, readonly number[]>> = {
  4: [1, 1, BESIDE, BESIDE],
  5: [1, 1, 1, BESIDE, BESIDE],
  6: [1, 1, 1, LOW_FREQUENCY, BESIDE, BESIDE],
  7: [1, 1, 1, LOW_FREQUENCY, 1, BESIDE, BESIDE],
  8: [1, 1, 1, LOW_FREQUENCY, 1, 1, BESIDE, BESIDE],
};

/** Integrated loudness of one to eight channels that come part by part. */
export class LoudnessMeter {
  private readonly step: number;
  private readonly weightings: readonly Weighting[];
  /** Weighted power of each step of 100 ms, summed over the channels. */
  private readonly steps: number[] = [];
  /** Sum of the squares of each channel in the step under way. */
  private readonly sums: Float64Array;
  private frames = 0;

  constructor(
    sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.step = Math.round(sampleRateHz * 0.1);
    this.weightings = Array.from({ length: channels }, () => new Weighting(sampleRateHz));
    this.sums = new Float64Array(channels);
  }

  /** @param part the next frames, channel by channel */
  take(part: readonly Float32Array[]): void {
    const weighted = this.weightings.map((weighting, n) => weighting.next(part[n]!));
    const count = part[0]!.length;
    for (let at = 0; at < count;) {
      const end = Math.min(count, at + this.step - (this.frames % this.step));
      weighted.forEach((samples, n) => {
        let sum = this.sums[n]!;
        for (let i = at; i < end; i++) sum += samples[i]! * samples[i]!;
        this.sums[n] = sum;
      });
      this.frames += end - at;
      at = end;
      if (this.frames % this.step === 0) this.closeStep();
    }
  }

  private closeStep(): void {
    let energy = 0;
    for (let n = 0; n < this.channels; n++) energy += ((WEIGHTS[this.channels]?.[n] ?? 1) * this.sums[n]!) / this.step;
    this.steps.push(energy);
    this.sums.fill(0);
  }

  /** In LUFS; -Infinity when nothing passes the absolute gate or the sound is shorter than one block. */
  integrated(): number {
    const { steps } = this;
    const blocks: number[] = [];
    for (let s = 0; s + 4 <= steps.length; s++)
      blocks.push((steps[s]! + steps[s + 1]! + steps[s + 2]! + steps[s + 3]!) / 4);
    const mean = (list: number[]) => list.reduce((sum, x) => sum + x, 0) / list.length;
    const loud = blocks.filter((power) => level(power) > -70);
    if (loud.length === 0) return -Infinity;
    const threshold = level(mean(loud)) - 10;
    return level(mean(loud.filter((power) => level(power) > threshold)));
  }
}

/** The same of a sound that is there as a whole. */
export function integratedLoudness(channels: readonly Float32Array[], sampleRateHz: number): number {
  const meter = new LoudnessMeter(sampleRateHz, channels.length);
  meter.take(channels);
  return meter.integrated();
}

/** Frames at the beginning of a piece in which its filters have not settled. */
const SETTLING_SECONDS = 0.02;

/**
 * Loudness in LUFS of a piece of stereo sound, without a gate: momentary where it is as long as 400 ms (EBU Tech 3341).
 * -Infinity in silence.
 */
export function momentaryLoudness(sides: readonly [Float32Array, Float32Array], sampleRateHz: number): number {
  const first = Math.round(SETTLING_SECONDS * sampleRateHz);
  let power = 0;
  for (const side of sides) {
    const weighted = new Weighting(sampleRateHz).next(side);
    let sum = 0;
    for (let i = first; i < weighted.length; i++) sum += weighted[i]! * weighted[i]!;
    power += sum / Math.max(1, weighted.length - first);
  }
  return level(power);
}
