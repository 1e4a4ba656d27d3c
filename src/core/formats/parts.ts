/** The most that may lie ahead of the samples of a file, in bytes. */
export const LONGEST_HEAD = 16 * 1024 * 1024;

/** No frames of no channels. */
export const NOTHING: readonly Float32Array[] = [];

/** Two runs of bytes as one. */
export function joined(a: Uint8Array, b: Uint8Array): Uint8Array {
  if (a.length === 0) return b;
  const both = new Uint8Array(a.length + b.length);
  both.set(a);
  both.set(b, a.length);
  return both;
}
