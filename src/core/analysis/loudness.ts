/**
 * Programme loudness after ITU-R BS.1770-4: K-weighting, blocks of 400 ms with 75 % overlap, an absolute gate at
 * -70 LUFS and a relative gate 10 LU under the mean. Coefficients for any rate by the bilinear transform of the
 * analogue prototypes that give the standard's tables at 48 kHz (De Man, "Evaluation of implementations of the EBU
 * R128 loudness measurement", 2018).
 */

import { K_LOW_CUT, K_SHELF } from '../dsp/kWeighting';

interface Biquad {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
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

/** In place. */
function weigh(samples: Float64Array, rate: number): void {
  filter(samples, highShelf(rate));
  filter(samples, highPass(rate));
}

function filter(samples: Float64Array, { b0, b1, b2, a1, a2 }: Biquad): void {
  let s1 = 0;
  let s2 = 0;
  for (let i = 0; i < samples.length; i++) {
    const x = samples[i]!;
    const y = b0 * x + s1;
    s1 = b1 * x - a1 * y + s2;
    s2 = b2 * x - a2 * y;
    samples[i] = y;
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

/**
 * Integrated loudness in LUFS of one to eight channels; -Infinity when nothing passes the absolute gate or the sound is
 * shorter than one block.
 */
export function integratedLoudness(channels: readonly Float32Array[], sampleRateHz: number): number {
  const step = Math.round(sampleRateHz * 0.1);
  const length = channels[0]?.length ?? 0;
  const steps = Math.floor(length / step);
  const energy = new Float64Array(steps);
  channels.forEach((channel, place) => {
    const weight = WEIGHTS[channels.length]?.[place] ?? 1;
    const weighted = Float64Array.from(channel);
    weigh(weighted, sampleRateHz);
    for (let s = 0; s < steps; s++) {
      let sum = 0;
      for (let i = s * step; i < (s + 1) * step; i++) sum += weighted[i]! * weighted[i]!;
      energy[s]! += (weight * sum) / step;
    }
  });
  const blocks: number[] = [];
  for (let s = 0; s + 4 <= steps; s++) blocks.push((energy[s]! + energy[s + 1]! + energy[s + 2]! + energy[s + 3]!) / 4);
  const mean = (list: number[]) => list.reduce((sum, x) => sum + x, 0) / list.length;
  const loud = blocks.filter((power) => level(power) > -70);
  if (loud.length === 0) return -Infinity;
  const threshold = level(mean(loud)) - 10;
  return level(mean(loud.filter((power) => level(power) > threshold)));
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
    const weighted = Float64Array.from(side);
    weigh(weighted, sampleRateHz);
    let sum = 0;
    for (let i = first; i < weighted.length; i++) sum += weighted[i]! * weighted[i]!;
    power += sum / Math.max(1, weighted.length - first);
  }
  return level(power);
}
