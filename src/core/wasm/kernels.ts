import { MODULE } from './module.generated';

/** What `kernels.as.ts` gives: places in its memory, and the loops that work there. */
interface Exports {
  readonly memory: WebAssembly.Memory;
  driveState(): number;
  driveTaps(): number;
  driveBlock(): number;
  driveFirstGains(): number;
  driveSecondGains(): number;
  drive(frames: number, firstCurve: number, secondCurve: number): void;
}

export interface Wasm {
  readonly exports: Exports;
  /** The memory as doubles; it never grows. */
  readonly doubles: Float64Array;
}

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

/** Whether this machine runs the core: WebAssembly with SIMD. */
export function runsWasm(): boolean {
  return typeof WebAssembly === 'object' && WebAssembly.validate(moduleBytes());
}

let instance: Wasm | null = null;

/** The one instance of this thread, made on first use. */
export function wasm(): Wasm {
  if (!instance) {
    const made = new WebAssembly.Instance(new WebAssembly.Module(moduleBytes()));
    const exports = made.exports as unknown as Exports;
    instance = { exports, doubles: new Float64Array(exports.memory.buffer) };
  }
  return instance;
}
