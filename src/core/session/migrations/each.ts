/** A record or a whole document of an older version. */
export type Old = Record<string, unknown>;

/** Records by id, each changed. */
export const each = (records: unknown, change: (one: Old) => Old): Old =>
  Object.fromEntries(Object.entries((records ?? {}) as Record<string, Old>).map(([id, one]) => [id, change(one)]));

/** Parts of a document in which effects stand: chains, compared settings and spaces of prints. Each effect is changed. */
export function eachInsert(document: Old, change: (insert: Old) => Old): Old {
  const all = (inserts: unknown): Old[] => (inserts as Old[]).map(change);
  const slot = (one: Old): Old => one && { ...one, inserts: all(one.inserts) };
  const space = (one: unknown) => {
    const given = one as Old | undefined;
    return given?.kind === 'own' ? { ...given, inserts: all(given.inserts) } : given;
  };
  return {
    inserts: each(document.inserts, change),
    comparisons: each(document.comparisons, (one) => ({ ...one, slots: each(one.slots, slot) })),
    prints: each(document.prints, (print) => {
      const recipe = print.recipe as Old;
      return 'space' in recipe ? { ...print, recipe: { ...recipe, space: space(recipe.space) } } : print;
    }),
  };
}
