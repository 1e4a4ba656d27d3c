import { findEffect } from '@/core/effects/registry';
import type { Insert } from '@/core/session/records';

/** Whether an effect takes level away as it is set; a delay does only with its ducking or its limiter. */
export function takesLevelAway({ effect, values }: Pick<Insert, 'effect' | 'values'>): boolean {
  if (!findEffect(effect)?.reduces) return false;
  return effect !== 'delay' || Number(values.duckAmount ?? 0) > 0 || values.safety === true;
}
