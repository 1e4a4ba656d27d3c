import { TWO_PI } from '../math/circle';
import { cos, sin } from '../math/elementary';
import type { Doubles, Integers } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { sharedBySize } from './sharedTables';

interface Tables {
  readonly twiddles: Doubles;
  /** Places to exchange, by pairs. */
  readonly pairs: Integers;
}

const tablesOf = sharedBySize((size, memory): Tables => {
  const twiddles: number[] = [];
  for (let half = 2; half < size; half *= 2) {
    for (const wave of [cos, sin]) {
      for (let k = 0; k < half; k++) twiddles.push(wave((TWO_PI * k * (size / (2 * half))) / size));
    }
  }
  const pairs: number[] = [];
  for (let i = 1, reversed = 0; i < size; i++) {
    // Counting up with the bits in the other order.
    let bit = size / 2;
    for (; reversed & bit; bit /= 2) reversed -= bit;
    reversed += bit;
    if (reversed > i) pairs.push(i, reversed);
  }
  const made = { twiddles: memory.doubles(twiddles.length), pairs: memory.integers(pairs.length) };
  made.twiddles.set(twiddles);
  made.pairs.set(pairs);
  return made;
});

/** The transform of `FourierTransform` in WebAssembly, in the memory of the loops. */
export class BlockFourier {
  private readonly loops = wasm().loops;
  private readonly tables: Tables;

  /** @param size power of two, 4 and up */
  constructor(readonly size: number) {
    if (size < 4 || (size & (size - 1)) !== 0) throw new Error(`A transform's size is a power of two, not ${size}`);
    this.tables = tablesOf(size);
  }

  /** Transforms in place; with both parts exchanged it is the inverse, times the size. */
  forward(re: Doubles, im: Doubles): void {
    const { twiddles, pairs } = this.tables;
    this.loops.fourier(
      re.byteOffset,
      im.byteOffset,
      this.size,
      twiddles.byteOffset,
      pairs.byteOffset,
      pairs.length / 2,
    );
  }
}
