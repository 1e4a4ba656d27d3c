import { Arena } from '../wasm/arena';
import { createAutopan } from './autopan/kernel';
import { createChorus } from './chorus/kernel';
import { createCompressor } from './compressor/kernel';
import { createDeesser } from './deesser/kernel';
import { createDelay } from './delay/kernel';
import { createEq } from './eq/kernel';
import { createFlanger } from './flanger/kernel';
import { createGate } from './gate/kernel';
import type { Kernel, KernelFactory } from './kernel';
import { createLimiter } from './limiter/kernel';
import { createPhaser } from './phaser/kernel';
import { createSaturator } from './saturator/kernel';
import { createTransient } from './transient/kernel';
import { createUtility } from './utility/kernel';

/** The kernel of each effect of the registry. */
export const KERNELS: Readonly<Record<string, KernelFactory>> = {
  delay: createDelay,
  chorus: createChorus,
  flanger: createFlanger,
  phaser: createPhaser,
  autopan: createAutopan,
  eq: createEq,
  compressor: createCompressor,
  gate: createGate,
  deesser: createDeesser,
  limiter: createLimiter,
  saturator: createSaturator,
  transient: createTransient,
  utility: createUtility,
};

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
