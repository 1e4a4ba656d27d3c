import { build } from 'esbuild';

/** Modules of a page that are loaded with it: what is imported on demand is left out. */
async function loadedWith(entry: string): Promise<string[]> {
  const { metafile } = await build({
    entryPoints: [entry],
    bundle: true,
    splitting: true,
    format: 'esm',
    outdir: 'unwritten',
    write: false,
    metafile: true,
    logLevel: 'error',
    loader: { '.css': 'empty' },
    external: ['next/*', 'node:*', 'fs', 'path', 'crypto', 'worker_threads', 'module'],
  });
  const modules = new Set([entry]);
  for (const one of modules) {
    for (const { path, kind } of metafile.inputs[one]?.imports ?? [])
      if (kind === 'import-statement' || kind === 'require-call') modules.add(path);
  }
  return [...modules];
}

const among = (modules: readonly string[], parts: readonly string[]) =>
  parts.filter((part) => modules.some((module) => module.includes(part)));

describe('what a page loads before it is used', () => {
  it('is neither effects nor forms, checks and the engine on the start page', async () => {
    const modules = await loadedWith('src/features/start/StartPage.tsx');
    expect(among(modules, ['features/start/SessionCard.tsx', 'react-bootstrap/'])).toHaveLength(2);
    const left = ['core/effects/registry', 'core/engine/', 'core/wasm/', 'node_modules/yup/', 'react-hook-form'];
    expect(among(modules, left)).toEqual([]);
  });

  it('is no kernel, no chart and no form of an open session', async () => {
    const modules = await loadedWith('src/features/shell/SessionPage.tsx');
    expect(among(modules, ['core/effects/registry', 'features/timeline/Timeline.tsx'])).toHaveLength(2);
    const left = [
      'kernels.generated',
      'embedded.generated',
      'core/jobs/jobs.ts',
      'node_modules/chart.js/',
      'react-hook-form',
    ];
    expect(among(modules, left)).toEqual([]);
  });
});
