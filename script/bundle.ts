/** Makes what is generated, and bundles what does not pass through Next: the audio worklet and the worker into public/audio, what runs in Node into dist. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, type BuildOptions } from 'esbuild';

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

/** Lists what stands in folders, a line each, so that an effect is added by adding its files. */
function listEffects(): void {
  const write = (
    file: string,
    name: string,
    type: string,
    from: string,
    lines: readonly (readonly [string, string, string])[],
  ) =>
    writeFileSync(
      file,
      [
        '/** From the files that there are, by script/bundle.ts. */',
        `import type { ${type} } from '${from}';`,
        ...lines.map(([, from, what]) => `import { ${what} } from '${from}';`),
        '',
        `export const ${name}: Readonly<Record<string, ${type}>> = {`,
        ...lines.map(([id, , what]) => `  ${id}: ${what},`),
        '};',
        '',
      ].join('\n'),
    );
  const capital = (id: string) => id[0]!.toUpperCase() + id.slice(1);
  const kernels = readdirSync('src/core/effects').filter((one) => existsSync(`src/core/effects/${one}/kernel.ts`));
  const preparers = kernels.filter((id) => existsSync(`src/core/effects/${id}/prepare.ts`));
  const views = readdirSync('src/features/effects').filter((one) => existsSync(`src/features/effects/${one}/view.tsx`));
  write(
    'src/core/effects/kernels.generated.ts',
    'KERNELS',
    'KernelFactory',
    './kernel',
    kernels.map((id) => [id, `./${id}/kernel`, `create${capital(id)}`]),
  );
  write(
    'src/core/effects/preparers.generated.ts',
    'PREPARERS',
    'Preparer',
    './prepare',
    preparers.map((id) => [id, `./${id}/prepare`, `prepare${capital(id)}`]),
  );
  write(
    'src/features/effects/views.generated.ts',
    'VIEWS',
    'EffectExtras',
    './extras',
    views.map((id) => [id, `./${id}/view`, `${id}View`]),
  );
}

compileWasm();
listEffects();
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
