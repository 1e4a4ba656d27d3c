import { readingAt } from '@/core/effects/readings';
import { findEffect } from '@/core/effects/registry';
import type { Insert } from '@/core/session/records';

/** Whether an effect takes level away as it is set. */
export function takesLevelAway({ effect, values }: Pick<Insert, 'effect' | 'values'>): boolean {
  const spec = findEffect(effect);
  if (!spec || !readingAt(spec, 'reduction')) return false;
  return spec.reduces?.(values) ?? true;
}
