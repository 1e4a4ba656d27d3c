/** Makes what is generated, and bundles what does not pass through Next: the audio worklet and the worker into public/audio, what runs in Node into dist. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, type BuildOptions } from 'esbuild';
import { listEffects } from './effectLists';

const shared: BuildOptions = { bundle: true, logLevel: 'warning', tsconfig: 'tsconfig.json', legalComments: 'none' };
const browser: BuildOptions = {
  ...shared,
  platform: 'browser',
  target: 'chrome120',
  minify: true,
  external: ['fs', 'path', 'crypto', 'node:worker_threads', 'worker_threads', 'module', 'node:module'],
};

/** Compiles the WebAssembly kernels to a module that every part of the application can import, with their signatures. */
function compileWasm(): void {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-wasm-'));
  const outFile = join(folder, 'kernels.wasm');
  const options = ['-O3', '--runtime', 'stub', '--noAssert', '--enable', 'simd'];
  const memory = ['--importMemory', '--initialMemory', '4096', '--maximumMemory', '32768', '--bindings', 'raw'];
  const compiler = 'node_modules/assemblyscript/bin/asc.js';
  execFileSync(process.execPath, [compiler, 'src/core/wasm/index.as.ts', '--outFile', outFile, ...options, ...memory]);
  const text = readFileSync(outFile).toString('base64');
  const declared = readFileSync(join(folder, 'kernels.d.ts'), 'utf8');
  const signatures = [...declared.matchAll(/export function (\w+)\((.*)\): (\w+);/g)].map(
    // A truth value comes back as 0 or 1.
    ([, name, parameters, result]) =>
      `  readonly ${name}: (${parameters}) => ${result === 'boolean' ? 'number' : result};`,
  );
  writeFileSync(
    'src/core/wasm/module.generated.ts',
    [
      '/** index.as.ts, compiled by script/bundle.ts. Pointers are byte addresses. */',
      'export interface WasmKernels {',
      ...signatures,
      '}',
      '',
      '/** The module, in base64. */',
      `export const MODULE =\n  '${text}';\n`,
    ].join('\n'),
  );
  rmSync(folder, { recursive: true });
}

compileWasm();
listEffects('src');
await mkdir('public/audio', { recursive: true });
await Promise.all([
  build({
    ...browser,
    entryPoints: ['src/runtime/worklet/engineProcessor.ts'],
    outfile: 'public/audio/worklet.js',
    format: 'iife',
  }),
  build({
    ...browser,
    entryPoints: ['src/runtime/workers/studioWorker.ts'],
    outfile: 'public/audio/worker.js',
    format: 'esm',
  }),
  build({
    ...shared,
    platform: 'node',
    target: 'node20',
    entryPoints: ['src/cli/main.ts'],
    outfile: 'dist/kinetikon.cjs',
    format: 'cjs',
  }),
  build({
    ...shared,
    platform: 'node',
    target: 'node20',
    entryPoints: ['src/server/sounds/checkThread.ts'],
    outfile: 'dist/checkThread.cjs',
    format: 'cjs',
  }),
  build({
    ...shared,
    platform: 'node',
    target: 'node20',
    entryPoints: ['src/server/serve.ts'],
    outfile: 'dist/serve.cjs',
    format: 'cjs',
    external: ['next'],
  }),
]);
