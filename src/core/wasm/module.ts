import type { WasmKernels } from './module.generated';

export type { WasmKernels };

export interface Wasm {
  readonly kernels: WasmKernels;
  readonly buffer: ArrayBuffer;
}

const PAGE = 65536;
/** Sizes of memory to try, in MiB. It never grows; the system commits only pages that are written to. */
const SIZES_MB = [2048, 1024, 512, 256];

function newMemory(): WebAssembly.Memory {
  for (const size of SIZES_MB) {
    const pages = (size * 1024 * 1024) / PAGE;
    try {
      return new WebAssembly.Memory({ initial: pages, maximum: pages });
    } catch (error) {
      if (size === SIZES_MB.at(-1)) throw error;
    }
  }
  throw new Error('No memory was asked for');
}

let load: (() => WebAssembly.Module) | null = null;
let instance: Wasm | null = null;

/**
 * Provides this thread's WebAssembly module, before the first use of `wasm`: in the browser the one that the page has
 * compiled, in Node the embedded one (`embedded.ts`).
 * @param module called once, on first use
 */
export function provideWasm(module: () => WebAssembly.Module): void {
  load = module;
}

/** The one instance of this thread, made on first use. */
export function wasm(): Wasm {
  if (!instance) {
    if (!load) throw new Error('provideWasm was not called');
    const memory = newMemory();
    const made = new WebAssembly.Instance(load(), { env: { memory } });
    instance = { kernels: made.exports as unknown as WasmKernels, buffer: memory.buffer };
  }
  return instance;
}
