import { Arena } from '../wasm/arena';
import { DEFAULT_MUSICAL_CONTEXT, type Kernel } from './kernel';
import type { ResolvedSettings } from './settings';
import { KERNELS } from './kernels.generated';

interface KernelSettings {
  readonly effect: string;
  readonly values: readonly number[];
  readonly settings?: ResolvedSettings;
}

/** Makes a kernel of an effect; its memory, and what else is taken of that, goes back when `ask` is done. */
export function withKernel<T>(
  { effect, values, settings = {} }: KernelSettings,
  sampleRate: number,
  ask: (kernel: Kernel, memory: Arena) => T,
): T {
  const memory = new Arena();
  try {
    return ask(KERNELS[effect]!({ sampleRate, values, settings, music: DEFAULT_MUSICAL_CONTEXT, memory }), memory);
  } finally {
    memory.free();
  }
}
