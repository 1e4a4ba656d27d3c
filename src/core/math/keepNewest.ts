/**
 * Removes the oldest entries of a map, by the order they were set in, until `most` are left.
 * @param removed told each value that is removed
 */
export function keepNewest<K, V>(map: Map<K, V>, most: number, removed?: (value: V) => void): void {
  for (const [key, value] of map) {
    if (map.size <= most) return;
    map.delete(key);
    removed?.(value);
  }
}
