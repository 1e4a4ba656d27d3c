import { createHash } from 'node:crypto';
import { writeWav } from '@/core/formats/wav';
import { SeededRandom } from '@/core/math/random';

/** Bytes in parts, as they come from a network or a file; in one where no size is given. */
export async function* inParts(bytes: Uint8Array, size = bytes.length): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}

/** A WAV file of noise at 48 kHz in 24 bits, another for each seed. */
export function noiseFile(seed: number, frames: number, channels = 1): Uint8Array {
  const random = new SeededRandom(seed);
  const side = () => Float32Array.from({ length: frames }, () => random.bipolar());
  return writeWav({ sampleRateHz: 48000, channels: Array.from({ length: channels }, side) }, '24');
}

/** One sum of the bits of some channels. */
export function sumOf(...channels: readonly Float32Array[]): string {
  const hash = createHash('sha256');
  for (const { buffer, byteOffset, byteLength } of channels) hash.update(Buffer.from(buffer, byteOffset, byteLength));
  return hash.digest('hex');
}
