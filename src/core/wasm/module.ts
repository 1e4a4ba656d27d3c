import { MODULE, type WasmKernels } from './module.generated';

export type { WasmKernels } from './module.generated';

export interface Wasm {
  readonly kernels: WasmKernels;
  readonly buffer: ArrayBuffer;
}

const PAGE = 65536;
/** Sizes of memory to try, in MiB. It never grows; the system commits only pages that are written to. */
const SIZES_MB = [2048, 1024, 512, 256];

/** The bytes of the module, from base64: the audio thread has no decoder of its own. */
function moduleBytes(): Uint8Array<ArrayBuffer> {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const values = new Uint8Array(128);
  for (let i = 0; i < letters.length; i++) values[letters.charCodeAt(i)] = i;
  const padding = MODULE.endsWith('==') ? 2 : MODULE.endsWith('=') ? 1 : 0;
  const bytes = new Uint8Array((MODULE.length / 4) * 3 - padding);
  for (let from = 0, to = 0; from < MODULE.length; from += 4) {
    let word = 0;
    for (let i = 0; i < 4; i++) word = (word << 6) | values[MODULE.charCodeAt(from + i)]!;
    for (let shift = 16; shift >= 0 && to < bytes.length; shift -= 8) bytes[to++] = (word >> shift) & 255;
  }
  return bytes;
}

/** True if this machine has WebAssembly with SIMD, which the core needs. */
export function runsWasm(): boolean {
  return typeof WebAssembly === 'object' && WebAssembly.validate(moduleBytes());
}

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

let instance: Wasm | null = null;

/** The one instance of this thread, made on first use. */
export function wasm(): Wasm {
  if (!instance) {
    const memory = newMemory();
    const made = new WebAssembly.Instance(new WebAssembly.Module(moduleBytes()), { env: { memory } });
    instance = { kernels: made.exports as unknown as WasmKernels, buffer: memory.buffer };
  }
  return instance;
}
