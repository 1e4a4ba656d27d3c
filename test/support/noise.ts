import { SeededRandom } from '@/core/math/random';

/** Channels of seeded noise between -0.5 and 0.5. */
export function noise(frames: number, channels: number, seed = 4): Float32Array[] {
  const random = new SeededRandom(seed);
  return Array.from({ length: channels }, () => Float32Array.from({ length: frames }, () => random.uniform() - 0.5));
}
