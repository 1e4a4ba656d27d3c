import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { build } from 'esbuild';
import { readWav, writeWav } from '@/core/formats/wav';
import { listEffects } from '../script/effectLists';

const SPEC = `
import { defineEffect, number } from '../spec';
export const halverSpec = defineEffect({
  id: 'halver', name: 'Halver', family: 'tools', purpose: 'Halves the level.', picture: 'response', main: ['times'],
  presets: [],
  parameters: [{
    ...number({ id: 'times', name: 'Times', unit: '', min: 1, max: 8, default: 1, scale: 'linear', help: 'How often.' }),
    group: 'Level',
  }],
});`;
const KERNEL = `
import type { KernelFactory } from '../kernel';
export const createHalver: KernelFactory = ({ values }) => {
  let gain = 0.5 ** values[0]!;
  return {
    latencyFrames: 0,
    tailSeconds: () => 0,
    setParameter: (_, value) => { gain = 0.5 ** value; },
    locate() {},
    reset() {},
    process(left, right, frames) {
      for (const side of [left, right]) for (let n = 0; n < frames; n++) side[n]! *= gain;
    },
  };
};`;
const VIEW = `
import type { EffectExtras } from '../extras';
export const halverView: EffectExtras = { pictureName: 'Halves' };`;
const NAMED_VIEW = `
import { VIEWS } from './features/effects/views.generated';
console.log(VIEWS.halver?.pictureName);`;

type Run = (program: 'cli' | 'view', ...words: string[]) => string;

/** The sources with one more effect, built for Node. */
async function withHalver(work: (run: Run, folder: string) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-dummy-'));
  try {
    cpSync('src', join(folder, 'src'), { recursive: true, filter: (path) => !/\.test\.tsx?$/.test(path) });
    symlinkSync(resolve('node_modules'), join(folder, 'node_modules'));
    cpSync('tsconfig.json', join(folder, 'tsconfig.json'));
    const put = (path: string, text: string) => {
      mkdirSync(join(folder, path, '..'), { recursive: true });
      writeFileSync(join(folder, path), text);
    };
    put('src/core/effects/halver/spec.ts', SPEC);
    put('src/core/effects/halver/kernel.ts', KERNEL);
    put('src/features/effects/halver/view.tsx', VIEW);
    listEffects(join(folder, 'src'));
    put('src/view.ts', NAMED_VIEW);
    await build({
      absWorkingDir: folder,
      entryPoints: { cli: 'src/cli/main.ts', view: 'src/view.ts' },
      outdir: join(folder, 'built'),
      outExtension: { '.js': '.cjs' },
      bundle: true,
      platform: 'node',
      logLevel: 'error',
      loader: { '.css': 'empty' },
    });
    work(
      (program, ...words) =>
        execFileSync(process.execPath, [join(folder, 'built', `${program}.cjs`), ...words], {
          encoding: 'utf8',
          stdio: 'pipe',
        }),
      folder,
    );
  } finally {
    rmSync(folder, { recursive: true });
  }
}

test('an effect is added by its folder in the core and its folder in the interface', async () => {
  await withHalver((run, folder) => {
    const listed = JSON.parse(run('cli', 'effects', '--json')) as { id: string; parameters: { id: string }[] }[];
    expect(listed.find(({ id }) => id === 'halver')!.parameters.map(({ id }) => id)).toEqual(['times']);
    expect(run('view').trim()).toBe('Halves');
    const [sound, halved] = [join(folder, 'sound.wav'), join(folder, 'halved.wav')];
    const ramp = Float32Array.from({ length: 4800 }, (_, n) => n / 4800);
    writeFileSync(sound, writeWav({ channels: [ramp, ramp], sampleRateHz: 48000 }, '32f'));
    run('cli', 'process', sound, '-o', halved, '--effect', 'halver', '--set', 'times=2', '--format', '32f');
    const [left] = readWav(readFileSync(halved), 'halved.wav').channels;
    for (const frame of [1, 480, 4799]) expect(left![frame]).toBeCloseTo(frame / 4800 / 4, 6);
    expect(() => run('cli', 'process', sound, '-o', halved, '--effect', 'halver', '--set', 'times=9')).toThrow(/times/);
  });
});
