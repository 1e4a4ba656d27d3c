import { TWO_PI } from '../math/circle';
import { cos, sin } from '../math/elementary';
import type { Arena, Doubles, Integers } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { sharedBySize } from './sharedTables';

interface Tables {
  readonly twiddles: Doubles;
  /** Places to exchange, by pairs. */
  readonly pairs: Integers;
}

function tablesIn(size: number, memory: Arena): Tables {
  // Cosines and sines of each stage but the first, from half-length h on at 2 h - 4.
  const twiddles = memory.doubles(2 * size - 4);
  const last = size / 2;
  for (let k = 0; k < last; k++) {
    twiddles[size - 4 + k] = cos((TWO_PI * k) / size);
    twiddles[size - 4 + last + k] = sin((TWO_PI * k) / size);
  }
  for (let half = last / 2; half >= 2; half /= 2) {
    for (let k = 0; k < 2 * half; k++) twiddles[2 * half - 4 + k] = twiddles[4 * half - 4 + 2 * k]!;
  }
  // All places change but those that read the same in both orders.
  let same = 1;
  for (let n = 1; n < size; n *= 4) same *= 2;
  const pairs = memory.integers(size - same);
  for (let i = 1, reversed = 0, at = 0; i < size; i++) {
    // Counting up with the bits in the other order.
    let bit = size / 2;
    for (; reversed & bit; bit /= 2) reversed -= bit;
    reversed += bit;
    if (reversed <= i) continue;
    pairs[at++] = i;
    pairs[at++] = reversed;
  }
  return { twiddles, pairs };
}

const tablesOf = sharedBySize(tablesIn);

/** The transform of `FourierTransform` in WebAssembly, in WebAssembly memory. */
export class BlockFourier {
  private readonly wasmKernels = wasm().kernels;
  private readonly tables: Tables;

  /**
   * @param size power of two, 4 and up
   * @param memory where its tables lie; without it they are kept, for all of this size
   */
  constructor(
    readonly size: number,
    memory?: Arena,
  ) {
    if (size < 4 || (size & (size - 1)) !== 0) throw new Error(`A transform's size is a power of two, not ${size}`);
    this.tables = memory ? tablesIn(size, memory) : tablesOf(size);
  }

  /** Transforms in place; with both parts exchanged it is the inverse, times the size. */
  forward(re: Doubles, im: Doubles): void {
    const { twiddles, pairs } = this.tables;
    this.wasmKernels.fourier(
      re.byteOffset,
      im.byteOffset,
      this.size,
      twiddles.byteOffset,
      pairs.byteOffset,
      pairs.length / 2,
    );
  }
}
