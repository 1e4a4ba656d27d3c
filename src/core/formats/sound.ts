/** Decoded sound: one array of samples a channel, full scale 1. */
export interface Sound {
  readonly sampleRateHz: number;
  readonly channels: readonly Float32Array[];
  /** Samples of the file that were not numbers or lay above +120 dBFS, and are silence here. */
  readonly unusable?: number;
}

/** Bits of integer formats, or 32-bit floating point. */
export type SampleFormat = '16' | '24' | '32f';

/** Frames that are written, measured or converted at a time. */
export const PART_FRAMES = 65536;

/** Limits on what is read: 16 channels, 8 to 384 kHz. */
export const MAXIMUM_CHANNELS = 16;
export const MINIMUM_RATE_HZ = 8000;
export const MAXIMUM_RATE_HZ = 384000;

/** Third and fourth channel of a sound that has four, as a true stereo impulse has; none of any other. */
export function moreOf({ channels }: Sound): readonly [Float32Array, Float32Array] | null {
  return channels.length === 4 ? [channels[2]!, channels[3]!] : null;
}

/** Left and right of any sound: mono on both, more than two channels give their first two. */
export function stereoOf(sound: Sound): { left: Float32Array; right: Float32Array } {
  const left = sound.channels[0]!;
  return { left, right: sound.channels[1] ?? left };
}

/** Mid signal: half of the sum of both sides. */
export function middleOf(left: Float32Array, right: Float32Array): Float32Array {
  return left === right ? left : left.map((one, n) => (one + right[n]!) / 2);
}
