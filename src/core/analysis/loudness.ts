/**
 * Programme loudness after ITU-R BS.1770-4: K-weighting, blocks of 400 ms with 75 % overlap, an absolute gate at
 * -70 LUFS and a relative gate 10 LU under the mean. Coefficients for any rate by the bilinear transform of the
 * analogue prototypes that give the standard's tables at 48 kHz (De Man, "Evaluation of implementations of the EBU
 * R128 loudness measurement", 2018).
 */

interface Biquad {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

function highShelf(rate: number): Biquad {
  const gain = 10 ** (3.999843853973347 / 20);
  const k = Math.tan((Math.PI * 1681.974450955533) / rate);
  const q = 0.7071752369554196;
  const boost = gain ** 0.4996667741545416;
  const a0 = 1 + k / q + k * k;
  return {
    b0: (gain + (boost * k) / q + k * k) / a0,
    b1: (2 * (k * k - gain)) / a0,
    b2: (gain - (boost * k) / q + k * k) / a0,
    a1: (2 * (k * k - 1)) / a0,
    a2: (1 - k / q + k * k) / a0,
  };
}

function highPass(rate: number): Biquad {
  const k = Math.tan((Math.PI * 38.13547087602444) / rate);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return { b0: 1, b1: -2, b2: 1, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 };
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

/** What a channel counts (BS.1770-4, tables 3 and 4): those beside the listener more, the low-frequency one not at all. */
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
    filter(weighted, highShelf(sampleRateHz));
    filter(weighted, highPass(sampleRateHz));
    for (let s = 0; s < steps; s++) {
      let sum = 0;
      for (let i = s * step; i < (s + 1) * step; i++) sum += weighted[i]! * weighted[i]!;
      energy[s]! += (weight * sum) / step;
    }
  });
  const blocks: number[] = [];
  for (let s = 0; s + 4 <= steps; s++) blocks.push((energy[s]! + energy[s + 1]! + energy[s + 2]! + energy[s + 3]!) / 4);
  const level = (power: number) => -0.691 + 10 * Math.log10(power);
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
    filter(weighted, highShelf(sampleRateHz));
    filter(weighted, highPass(sampleRateHz));
    let sum = 0;
    for (let i = first; i < weighted.length; i++) sum += weighted[i]! * weighted[i]!;
    power += sum / Math.max(1, weighted.length - first);
  }
  return -0.691 + 10 * Math.log10(power);
}
