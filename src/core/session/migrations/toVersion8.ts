import { each, type Old } from './each';

const noted = (insert: Old): Old => ({ ...insert, notesFrom: null });
const all = (inserts: unknown): Old[] => (inserts as Old[]).map(noted);

/** Version 8 has notes, effects that play them, and modulators moved by hand. Nothing of version 7 sounds otherwise. */
export function toVersion8(old: Old): Old {
  const slot = (one: Old): Old => one && { ...one, inserts: all(one.inserts) };
  const space = (one: unknown) => {
    const given = one as Old | undefined;
    return given?.kind === 'own' ? { ...given, inserts: all(given.inserts) } : given;
  };
  return {
    ...old,
    version: 8,
    notes: {},
    inserts: each(old.inserts, noted),
    modulators: each(old.modulators, (one) => ({ ...one, controller: null, handPart: 0 })),
    comparisons: each(old.comparisons, (one) => ({ ...one, slots: each(one.slots, slot) })),
    prints: each(old.prints, (print) => {
      const recipe = print.recipe as Old;
      return 'space' in recipe ? { ...print, recipe: { ...recipe, space: space(recipe.space) } } : print;
    }),
  };
}
