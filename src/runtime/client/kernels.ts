import { KinetikonError } from '@/core/errors';

const ADDRESS = '/audio/kernels.wasm';

/** A module of one function that has a vector on its stack: valid only where there is SIMD. */
const SIMD_PROBE = Uint8Array.of(
  ...[0, 97, 115, 109, 1, 0, 0, 0],
  ...[1, 5, 1, 96, 0, 1, 123],
  ...[3, 2, 1, 0],
  ...[10, 10, 1, 8, 0, 65, 0, 253, 15, 253, 98, 11],
);

/** True if this browser has WebAssembly with SIMD, which the core needs. */
export function runsWasm(): boolean {
  return typeof WebAssembly === 'object' && WebAssembly.validate(SIMD_PROBE);
}

let compiled: Promise<WebAssembly.Module> | null = null;

/**
 * The WebAssembly kernels, fetched and compiled once for the page, its workers and the audio thread.
 * @throws KinetikonError engine.unavailable; asked again it is tried again
 */
export function compiledKernels(): Promise<WebAssembly.Module> {
  compiled ??= WebAssembly.compileStreaming(fetch(ADDRESS)).catch((cause: unknown) => {
    compiled = null;
    throw new KinetikonError('engine.unavailable', 'The engine could not be loaded.', {
      kept: 'The session is untouched.',
      next: 'Check that Kinetikon is running, then try again.',
      cause,
    });
  });
  return compiled;
}
