import { each, type Old } from './each';

/** A vocoder of before had its carrier as it was. */
const plain = (insert: Old): Old =>
  insert.effect === 'vocoder' ? { ...insert, values: { even: 0, ...(insert.values as Old) } } : insert;
const all = (inserts: unknown): Old[] => (inserts as Old[]).map(plain);

/** Version 9 evens the carrier of vocoders. Nothing of version 8 sounds otherwise. */
export function toVersion9(old: Old): Old {
  const slot = (one: Old): Old => one && { ...one, inserts: all(one.inserts) };
  const space = (one: unknown) => {
    const given = one as Old | undefined;
    return given?.kind === 'own' ? { ...given, inserts: all(given.inserts) } : given;
  };
  return {
    ...old,
    version: 9,
    inserts: each(old.inserts, plain),
    comparisons: each(old.comparisons, (one) => ({ ...one, slots: each(one.slots, slot) })),
    prints: each(old.prints, (print) => {
      const recipe = print.recipe as Old;
      return 'space' in recipe ? { ...print, recipe: { ...recipe, space: space(recipe.space) } } : print;
    }),
  };
}
