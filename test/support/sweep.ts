import { seedOf } from '@/core/math/hash';
import { SeededRandom } from '@/core/math/random';

/** Seed of the cases drawn in this run. `script/test` sets it from the tree's hash; SEED=n repeats a run. */
export const SEED = Number(process.env.SEED ?? 1);

/** True in `script/test --all`, where every case runs. */
export const RUNS_ALL = process.env.KINETIKON_TEST_ALL === '1';

const SHARE = 0.2;

/** Number of random cases to run out of `count`: a fifth, at least one. */
export const thinned = (count: number): number => (RUNS_ALL ? count : Math.max(1, Math.round(SHARE * count)));

/**
 * The cases of a sweep that run this time, in order: a fifth, at least one, drawn by the seed and the name of the sweep.
 * @param name differs between sweeps, which then draw independently
 */
export function drawn<T>(name: string, cases: readonly T[]): T[] {
  if (RUNS_ALL) return [...cases];
  const random = new SeededRandom(SEED + seedOf(name));
  const order = cases.map((_, index) => ({ index, key: random.uniform() })).sort((a, b) => a.key - b.key);
  const chosen = new Set(order.slice(0, thinned(cases.length)).map(({ index }) => index));
  return cases.filter((_, index) => chosen.has(index));
}
