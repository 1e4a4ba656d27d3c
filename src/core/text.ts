/** Text as people count it: by code points, not by UTF-16 units. */

/** Code points in a text. */
export function textLength(text: string): number {
  let count = 0;
  for (const point of text) if (point !== '') count++;
  return count;
}

/** The first `most` code points of a text, so that no emoji is cut in two. */
export function cutText(text: string, most: number): string {
  // No text has more code points than units.
  if (text.length <= most) return text;
  let end = 0;
  let count = 0;
  for (const point of text) {
    if (count++ === most) break;
    end += point.length;
  }
  return text.slice(0, end);
}

const LONE_SURROGATE = /\p{Surrogate}/u;

/** The flaw that keeps a text from being stored, in words; undefined for none. */
export function textFlaw(text: string): string | undefined {
  if (text.includes('\0')) return 'a NUL character';
  return LONE_SURROGATE.test(text) ? 'half of a character (a lone surrogate)' : undefined;
}

const SHOWN_LENGTH = 60;

/** A value from outside as a message quotes it, cut to 60 characters. Takes anything JSON can hold. */
export function quoted(value: unknown): string {
  const text = typeof value === 'string' ? value : (JSON.stringify(value) ?? String(value));
  const plain = text.replace(/[\0\p{Surrogate}]/gu, '\uFFFD');
  return textLength(plain) > SHOWN_LENGTH ? `${cutText(plain, SHOWN_LENGTH - 3)}…` : plain;
}
