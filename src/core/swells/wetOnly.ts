import { effectById } from '../effects/registry';
import type { PlanInsert } from '../engine/plan';

/** The effects of a space at their wet sound alone: those that mix dry and wet and are made for returns. */
export function wetOnly(inserts: readonly PlanInsert[]): PlanInsert[] {
  return inserts.map((insert) => {
    const spec = effectById(insert.effect);
    const mix = spec.suitsReturns ? spec.parameters.findIndex(({ id }) => id === 'mix') : -1;
    return mix < 0 ? insert : { ...insert, values: insert.values.map((value, n) => (n === mix ? 100 : value)) };
  });
}
