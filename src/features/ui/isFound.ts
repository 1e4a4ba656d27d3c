/**
 * True if every word of a search is in some of the texts.
 * @param search as it was typed
 */
export function isFound(search: string, ...texts: readonly (string | undefined)[]): boolean {
  const text = texts.join(' ').toLowerCase();
  return search
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .every((word) => text.includes(word));
}
