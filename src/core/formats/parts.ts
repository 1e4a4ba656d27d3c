/** The most that may lie ahead of the samples of a file, in bytes. */
export const LONGEST_HEAD = 16 * 1024 * 1024;

/** No frames of no channels. */
export const NOTHING: readonly Float32Array[] = [];

/** Two runs of bytes or of samples as one. */
export function joined<T extends Uint8Array | Float32Array>(a: T, b: T): T {
  if (a.length === 0) return b;
  if (b.length === 0) return a;
  const both = new (a.constructor as new (length: number) => T)(a.length + b.length);
  both.set(a);
  both.set(b, a.length);
  return both;
}

/** Runs of bytes as one. */
export function inOneRun(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** The channels of a sound of which the pieces are there. */
export function inOne(pieces: readonly (readonly Float32Array[])[]): Float32Array[] {
  const frames = pieces.reduce((sum, piece) => sum + (piece[0]?.length ?? 0), 0);
  return (pieces[0] ?? []).map((_, channel) => {
    const whole = new Float32Array(frames);
    let at = 0;
    for (const piece of pieces) {
      whole.set(piece[channel]!, at);
      at += piece[channel]!.length;
    }
    return whole;
  });
}
