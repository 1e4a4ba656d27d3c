/** A free range of memory; `clean` if it holds zeros only. */
interface Gap {
  from: number;
  to: number;
  clean: boolean;
}

/**
 * First-fit allocator. Allocated memory is zero; freed memory is cleared a little at a time by `zeroFreed`, or at the latest
 * when it is allocated again.
 */
export class Heap {
  /** Free ranges by address; neighbours that are both clean, or both not, are merged. */
  private readonly gaps: Gap[];
  private readonly bytes: Uint8Array;

  /** @param from,to range of the buffer to allocate from, in bytes; it holds zeros */
  constructor(
    private readonly buffer: ArrayBuffer,
    from: number,
    to: number,
  ) {
    this.bytes = new Uint8Array(buffer);
    this.gaps = [{ from: aligned(from), to, clean: true }];
  }

  /** Bytes that are free. */
  get freeBytes(): number {
    return this.gaps.reduce((sum, { from, to }) => sum + to - from, 0);
  }

  /**
   * Allocates `size` bytes.
   * @returns the address, a multiple of 16
   * @throws RangeError if no gap is large enough
   */
  allocate(size: number): number {
    const length = aligned(Math.max(1, size));
    const { gaps } = this;
    let first = 0;
    for (let last = 0; last < gaps.length; last++) {
      if (last > 0 && gaps[last - 1]!.to !== gaps[last]!.from) first = last;
      const { from } = gaps[first]!;
      if (gaps[last]!.to - from < length) continue;
      for (const gap of gaps.slice(first, last + 1)) {
        const to = Math.min(gap.to, from + length);
        if (!gap.clean) this.bytes.fill(0, gap.from, to);
        gap.from = to;
      }
      gaps.splice(first, gaps[last]!.from === gaps[last]!.to ? last + 1 - first : last - first);
      return from;
    }
    const megabytes = (length / 2 ** 20).toFixed(1);
    throw new RangeError(`There is no memory left for another effect: ${megabytes} MB are wanted in one piece`);
  }

  /** Frees the `size` bytes that `allocate` gave at `from`. */
  free(from: number, size: number): void {
    const to = from + aligned(Math.max(1, size));
    const { gaps } = this;
    let place = gaps.findIndex((gap) => gap.from >= to);
    if (place < 0) place = gaps.length;
    gaps.splice(place, 0, { from, to, clean: false });
    this.join();
  }

  /** Zeroes up to `budget` bytes of freed memory. */
  zeroFreed(budget: number): void {
    const { gaps } = this;
    const place = gaps.findIndex(({ clean }) => !clean);
    const gap = gaps[place];
    if (!gap) return;
    const to = Math.min(gap.to, gap.from + budget);
    this.bytes.fill(0, gap.from, to);
    if (to === gap.to) {
      gap.clean = true;
    } else {
      gaps.splice(place, 0, { from: gap.from, to, clean: true });
      gap.from = to;
    }
    this.join();
  }

  private join(): void {
    const { gaps } = this;
    for (let i = gaps.length - 1; i > 0; i--) {
      const gap = gaps[i]!;
      const before = gaps[i - 1]!;
      if (before.to !== gap.from || before.clean !== gap.clean) continue;
      before.to = gap.to;
      gaps.splice(i, 1);
    }
  }

  floats(at: number, length: number): Float32Array {
    return new Float32Array(this.buffer, at, length);
  }

  integers(at: number, length: number): Int32Array {
    return new Int32Array(this.buffer, at, length);
  }

  doubles(at: number, length: number): Float64Array {
    return new Float64Array(this.buffer, at, length);
  }
}

function aligned(bytes: number): number {
  return (bytes + 15) & ~15;
}
