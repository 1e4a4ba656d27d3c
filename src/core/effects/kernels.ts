import { createDelay } from './delay/kernel';
import type { KernelFactory } from './kernel';
import { createLimiter } from './limiter/kernel';
import { createUtility } from './utility/kernel';

/** The kernel of each effect of the registry. */
export const KERNELS: Readonly<Record<string, KernelFactory>> = {
  delay: createDelay,
  limiter: createLimiter,
  utility: createUtility,
};
