/** Bytes in parts, as they come from a network or a file; in one where no size is given. */
export async function* inParts(bytes: Uint8Array, size = bytes.length): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}
