/**
 * The table's own entry under a key that comes from outside; undefined where there is none. Keys such as `constructor`,
 * which every object inherits, find nothing.
 */
export function lookUp<T>(table: Readonly<Record<string, T>>, key: unknown): T | undefined {
  return typeof key === 'string' && Object.hasOwn(table, key) ? table[key] : undefined;
}
