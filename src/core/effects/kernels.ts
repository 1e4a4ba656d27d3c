import { Arena } from '../wasm/arena';
import type { Kernel } from './kernel';
import { KERNELS } from './kernels.generated';

/** Makes a kernel of an effect, whose memory goes back to where it came from when `ask` is done. */
export function withKernel<T>(
  effect: string,
  sampleRate: number,
  values: readonly number[],
  ask: (kernel: Kernel) => T,
): T {
  const memory = new Arena();
  try {
    return ask(KERNELS[effect]!({ sampleRate, values, memory }));
  } finally {
    memory.free();
  }
}
