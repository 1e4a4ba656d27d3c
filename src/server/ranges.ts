/** Bytes `from` up to `to` of a body. */
export interface ByteRange {
  readonly from: number;
  readonly to: number;
}

/**
 * The range that a request asks for (RFC 9110, section 14): null for the whole body, as for several ranges at once and
 * for headers that are none, and 'none' when it lies outside the body.
 * @param header `Range` of the request
 * @param size bytes of the body
 */
export function rangeOf(header: string | null, size: number): ByteRange | 'none' | null {
  const found = /^bytes=(\d*)-(\d*)$/.exec(header?.trim() ?? '');
  if (!found || (found[1] === '' && found[2] === '')) return null;
  const [first, last] = [found[1]!, found[2]!];
  if (first === '') {
    const length = Math.min(size, Number(last));
    return length === 0 ? 'none' : { from: size - length, to: size };
  }
  const from = Number(first);
  const to = last === '' ? size : Math.min(size, Number(last) + 1);
  if (last !== '' && Number(last) < from) return null;
  return from >= size ? 'none' : { from, to };
}
