/** Words of a search as it was typed, in small letters. */
export const wordsOf = (search: string): string[] => search.toLowerCase().split(/\s+/).filter(Boolean);

/**
 * True if every word of a search is in some of the texts.
 * @param search as it was typed
 */
export function isFound(search: string, ...texts: readonly (string | undefined)[]): boolean {
  const text = texts.join(' ').toLowerCase();
  return wordsOf(search).every((word) => text.includes(word));
}
