import { Heap } from './heap';
import { wasm } from './module';

declare const inMemory: unique symbol;
/** Arrays in WebAssembly memory; `byteOffset` is their address. */
export type Floats = Float32Array & { readonly [inMemory]: true };
export type Integers = Int32Array & { readonly [inMemory]: true };
export type Doubles = Float64Array & { readonly [inMemory]: true };

let heap: Heap | null = null;

/** The heap of this thread's WebAssembly memory. */
export function heapOfThread(): Heap {
  if (!heap) {
    const { kernels, buffer } = wasm();
    heap = new Heap(buffer, kernels.heapBase(), buffer.byteLength);
  }
  return heap;
}

/** Runs a function with an arena that is freed when it returns or throws. */
export function withArena<T>(work: (memory: Arena) => T): T {
  const memory = new Arena();
  try {
    return work(memory);
  } finally {
    memory.free();
  }
}

/** Memory of one owner, freed as a whole. */
export class Arena {
  private readonly pieces: { readonly at: number; readonly size: number }[] = [];
  private readonly parts = new Set<Arena>();

  constructor(
    private readonly heap: Heap = heapOfThread(),
    private readonly whole: Arena | null = null,
  ) {}

  /** A part that can be freed by itself, and is freed with the arena at the latest. */
  part(): Arena {
    const part = new Arena(this.heap, this);
    this.parts.add(part);
    return part;
  }

  /** Allocates zeros. */
  floats(length: number): Floats {
    return this.heap.floats(this.allocate(4 * length), length) as Floats;
  }

  /** Allocates zeros. */
  doubles(length: number): Doubles {
    return this.heap.doubles(this.allocate(8 * length), length) as Doubles;
  }

  /** Allocates zeros. */
  integers(length: number): Integers {
    return this.heap.integers(this.allocate(4 * length), length) as Integers;
  }

  private allocate(size: number): number {
    const at = this.heap.allocate(size);
    this.pieces.push({ at, size });
    return at;
  }

  /** Frees everything; its arrays may not be used afterwards. */
  free(): void {
    for (const part of this.parts) part.free();
    for (const { at, size } of this.pieces) this.heap.free(at, size);
    this.pieces.length = 0;
    this.whole?.parts.delete(this);
  }
}
