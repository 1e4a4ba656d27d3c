import { Arena } from '../wasm/arena';

/**
 * Tables that depend on a size alone, made when a size is first asked for, for all who need them.
 * @param make takes its memory from the arena, which is never given back
 */
export function sharedBySize<T>(make: (size: number, memory: Arena) => T): (size: number) => T {
  const known = new Map<number, T>();
  return (size) => {
    let tables = known.get(size);
    if (tables === undefined) known.set(size, (tables = make(size, new Arena())));
    return tables;
  };
}
