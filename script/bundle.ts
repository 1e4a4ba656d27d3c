/** Bundles what does not pass through Next: the audio worklet and the worker into public/audio, what runs in Node into dist. */
import { mkdir } from 'node:fs/promises';
import { build, type BuildOptions } from 'esbuild';

const shared: BuildOptions = { bundle: true, logLevel: 'warning', tsconfig: 'tsconfig.json', legalComments: 'none' };
const browser: BuildOptions = {
  ...shared,
  platform: 'browser',
  target: 'chrome120',
  minify: true,
  external: ['fs', 'path', 'crypto', 'node:worker_threads', 'worker_threads', 'module', 'node:module'],
};

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
]);
