import { Heap } from './heap';
import { wasm } from './module';

declare const inMemory: unique symbol;
/** Numbers that lie where the WebAssembly kernels can work on them; their place is `byteOffset`. */
export type Floats = Float32Array & { readonly [inMemory]: true };
export type Integers = Int32Array & { readonly [inMemory]: true };
export type Doubles = Float64Array & { readonly [inMemory]: true };

let heap: Heap | null = null;

/** The heap of this thread. */
export function heapOfThread(): Heap {
  if (!heap) {
    const { kernels, buffer } = wasm();
    heap = new Heap(buffer, kernels.heapBase(), buffer.byteLength);
  }
  return heap;
}

/** Lends memory to some work and takes it back at its end, however that comes. */
export function withArena<T>(work: (memory: Arena) => T): T {
  const memory = new Arena();
  try {
    return work(memory);
  } finally {
    memory.free();
  }
}

/** Memory of one owner, all of which goes back at once. */
export class Arena {
  private readonly pieces: { readonly at: number; readonly size: number }[] = [];
  private readonly parts = new Set<Arena>();

  constructor(
    private readonly heap: Heap = heapOfThread(),
    private readonly whole: Arena | null = null,
  ) {}

  /** Memory that can be given back by itself, and goes back with the rest at the latest. */
  part(): Arena {
    const part = new Arena(this.heap, this);
    this.parts.add(part);
    return part;
  }

  /** @returns as many zeros */
  floats(length: number): Floats {
    return this.heap.floats(this.allocate(4 * length), length) as Floats;
  }

  /** @returns as many zeros */
  doubles(length: number): Doubles {
    return this.heap.doubles(this.allocate(8 * length), length) as Doubles;
  }

  /** @returns as many zeros */
  integers(length: number): Integers {
    return this.heap.integers(this.allocate(4 * length), length) as Integers;
  }

  private allocate(size: number): number {
    const at = this.heap.allocate(size);
    this.pieces.push({ at, size });
    return at;
  }

  /** Gives everything back; nothing of it may be used after that. */
  free(): void {
    for (const part of this.parts) part.free();
    for (const { at, size } of this.pieces) this.heap.free(at, size);
    this.pieces.length = 0;
    this.whole?.parts.delete(this);
  }
}
