import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { FAMILIES, type EffectSpec } from './spec';
import { SPECS, type EffectId } from './specs.generated';

export type { EffectId };

const familyOrder = ({ family }: EffectSpec) => FAMILIES.findIndex(({ id }) => id === family);

/** Every effect, in the order in which they are offered: by family, then by name. */
export const EFFECTS: readonly EffectSpec[] = Object.values<EffectSpec>(SPECS).sort(
  (a, b) => familyOrder(a) - familyOrder(b) || (a.name < b.name ? -1 : 1),
);

/** The spec of an effect that the code names; ids from documents and users go through `effectById`. */
export function specOf(id: EffectId): EffectSpec {
  return SPECS[id];
}

export function findEffect(id: string): EffectSpec | undefined {
  return EFFECTS.find((spec) => spec.id === id);
}

/** @throws KinetikonError effect.unknown, naming those there are */
export function effectById(id: string): EffectSpec {
  const spec = findEffect(id);
  if (!spec) {
    throw new KinetikonError('effect.unknown', `There is no effect "${quoted(id)}".`, {
      next: `There are: ${EFFECTS.map((one) => one.id).join(', ')}.`,
    });
  }
  return spec;
}
