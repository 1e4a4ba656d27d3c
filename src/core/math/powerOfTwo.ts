/** The least power of two that is `least` or more, 1 and up: lengths of rings, whose index is masked. */
export function powerOfTwoFrom(least: number): number {
  let size = 1;
  while (size < least) size *= 2;
  return size;
}
