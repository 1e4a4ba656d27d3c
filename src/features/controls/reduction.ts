import { meterSlots } from '@/core/effects/meters';
import { findEffect } from '@/core/effects/registry';
import type { Insert } from '@/core/session/records/inserts';

/** True if an effect reduces the level at its current values. */
export function takesLevelAway({ effect, values }: Pick<Insert, 'effect' | 'values'>): boolean {
  const spec = findEffect(effect);
  if (!spec || !meterSlots(spec, 'reduction')) return false;
  return spec.reduces?.(values) ?? true;
}
