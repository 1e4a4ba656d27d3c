/** Makes what is generated, and bundles what does not pass through Next: the audio worklet and the worker into public/audio, what runs in Node into dist. */
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { mkdir, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, type BuildOptions, type Plugin } from 'esbuild';
import ts from 'typescript';
import { listEffects } from './effectLists';
import { buildManual } from './manual';

/** A decoder's filter for speech, which is never asked for. */
const UNUSED = '@wasm-audio-decoders/opus-ml';

const shared: BuildOptions = { bundle: true, logLevel: 'warning', tsconfig: 'tsconfig.json', legalComments: 'none' };
const browser: BuildOptions = {
  ...shared,
  platform: 'browser',
  target: 'chrome120',
  minify: true,
  external: ['fs', 'path', 'crypto', 'node:worker_threads', 'worker_threads', 'module', 'node:module', UNUSED],
};

/** Lets the bundles of Node find codec-parser as a file beside them. */
const codecParserBeside: Plugin = {
  name: 'codec-parser-beside',
  setup: ({ onResolve }) => {
    onResolve({ filter: /^codec-parser$/ }, () => ({ path: './codecParser.cjs', external: true }));
  },
};

const node: BuildOptions = {
  ...shared,
  platform: 'node',
  target: 'node20',
  format: 'cjs',
  // mpg123 and codec-parser are under the LGPL: files of their own, which can be exchanged. Mediabunny works in browsers alone.
  external: ['next', '@electric-sql/pglite', 'pg', 'pg-boss', 'pino', 'mpg123-decoder', 'mediabunny', UNUSED],
  plugins: [codecParserBeside],
  // Bundles find what lies beside them from wherever they are started.
  banner: { js: "process.env.KINETIKON_ROOT ??= require('node:path').join(__dirname, '..');" },
};

/** Compiles the WebAssembly kernels: the module for the browser, the same embedded for Node, and their signatures. */
function compileWasm(): void {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-wasm-'));
  const outFile = join(folder, 'kernels.wasm');
  const options = ['-O3', '--runtime', 'stub', '--noAssert', '--enable', 'simd'];
  const memory = ['--importMemory', '--initialMemory', '4096', '--maximumMemory', '32768', '--bindings', 'raw'];
  const compiler = 'node_modules/assemblyscript/bin/asc.js';
  execFileSync(process.execPath, [compiler, 'src/core/wasm/index.as.ts', '--outFile', outFile, ...options, ...memory]);
  copyFileSync(outFile, 'public/audio/kernels.wasm');
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
    ].join('\n'),
  );
  writeFileSync(
    'src/core/wasm/embedded.generated.ts',
    `/** The module of index.as.ts in base64, by script/bundle.ts. */\nexport const MODULE =\n  '${text}';\n`,
  );
  rmSync(folder, { recursive: true });
}

/**
 * Leaves out of specs what the audio thread never reads: help, and the values of presets. A spec is a literal, so that
 * this is a change of its syntax tree.
 */
const withoutWords: Plugin = {
  name: 'without-words',
  setup: ({ onLoad }) => {
    onLoad({ filter: /core\/effects\/\w+\/(spec|presets)\.ts$/ }, async ({ path }) => ({
      contents: withoutHelpAndPresets(path, await readFile(path, 'utf8')),
      loader: 'ts',
    }));
  },
};

function withoutHelpAndPresets(path: string, text: string): string {
  const source = ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true);
  const visit = (node: ts.Node): ts.Node => {
    if (ts.isPropertyAssignment(node)) {
      const name = node.name.getText(source);
      if (name === 'help')
        return ts.factory.updatePropertyAssignment(node, node.name, ts.factory.createStringLiteral(''));
      if (name === 'presets')
        return ts.factory.updatePropertyAssignment(node, node.name, ts.factory.createArrayLiteralExpression());
    }
    return ts.visitEachChild(node, visit, undefined);
  };
  return ts.createPrinter().printFile(visit(source) as ts.SourceFile);
}

await build({
  ...shared,
  platform: 'node',
  target: 'node20',
  format: 'cjs',
  entryPoints: ['codec-parser'],
  outfile: 'dist/codecParser.cjs',
  // Whoever requires it takes what it exports by default for all of it.
  footer: {
    js: 'module.exports = Object.defineProperties(module.exports.default, Object.getOwnPropertyDescriptors(module.exports));',
  },
});
rmSync('public/audio/parts', { recursive: true, force: true });
await mkdir('public/audio', { recursive: true });
compileWasm();
listEffects('src');
buildManual();
await Promise.all([
  build({
    ...browser,
    entryPoints: ['src/runtime/worklet/engineProcessor.ts'],
    plugins: [withoutWords],
    outfile: 'public/audio/worklet.js',
    format: 'iife',
  }),
  build({
    ...browser,
    entryPoints: { worker: 'src/runtime/workers/studioWorker.ts', pages: 'src/runtime/workers/pageWorker.ts' },
    outdir: 'public/audio',
    // Decoders and encoders are files of their own, fetched when they are needed.
    splitting: true,
    chunkNames: 'parts/[name]-[hash]',
    format: 'esm',
  }),
  ...Object.entries({
    kinetikon: 'src/cli/main.ts',
    checkThread: 'src/server/sounds/checkThread.ts',
    renderThread: 'src/server/renders/renderThread.ts',
    serve: 'src/server/serve.ts',
  }).map(([name, entry]) => build({ ...node, entryPoints: [entry], outfile: `dist/${name}.cjs` })),
]);
