/**
 * A fingerprint of a text: two 32-bit FNV-1a sums (Fowler, Noll and Vo; RFC 9923) from different starts, as 16
 * hexadecimal digits. To notice changes, not to guard against forgery.
 */
export function fingerprint(text: string): string {
  let first = 0x811c9dc5;
  let second = 0x9dc5811c;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    first = Math.imul(first ^ code, 0x01000193);
    second = Math.imul(second ^ code ^ (i & 0xff), 0x01000193);
  }
  return [first, second].map((sum) => (sum >>> 0).toString(16).padStart(8, '0')).join('');
}

/** A seed from a text, 0 to 2^24 - 1. */
export const seedOf = (text: string): number => Number.parseInt(fingerprint(text).slice(0, 6), 16);
