import type { SeededRandom } from '@/core/math/random';

/** A copy of plain data whose objects have their keys in another order; lists keep theirs. */
function reordered<T>(value: T, order: (keys: string[]) => string[]): T {
  if (Array.isArray(value)) return value.map((one) => reordered<unknown>(one, order)) as T;
  if (typeof value !== 'object' || value === null) return value;
  const record = value as Record<string, unknown>;
  return Object.fromEntries(order(Object.keys(record)).map((key) => [key, reordered(record[key], order)])) as T;
}

/** Keys in the order in which PostgreSQL stores them in `jsonb`: shorter ones first, then by their bytes. */
export function asStored<T>(value: T): T {
  return reordered(value, (keys) => keys.sort((a, b) => a.length - b.length || (a < b ? -1 : 1)));
}

/** Keys in a random order. */
export function shuffled<T>(value: T, random: SeededRandom): T {
  return reordered(value, (keys) => {
    const drawn = keys.map((key) => [random.uniform(), key] as const);
    return drawn.sort(([a], [b]) => a - b).map(([, key]) => key);
  });
}
