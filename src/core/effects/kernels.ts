import { createAutopan } from './autopan/kernel';
import { createChorus } from './chorus/kernel';
import { createCompressor } from './compressor/kernel';
import { createDeesser } from './deesser/kernel';
import { createDelay } from './delay/kernel';
import { createEq } from './eq/kernel';
import { createFlanger } from './flanger/kernel';
import { createGate } from './gate/kernel';
import type { KernelFactory } from './kernel';
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
