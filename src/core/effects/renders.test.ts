import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { freeKernels, kernelOf, run, setValue, sine } from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { EFFECTS } from './registry';
import type { EffectSpec, ParameterValues } from './spec';

/** `npm run renders` records the hashes of effects whose version has been raised, and of new ones. */
const RECORDS = process.env.KINETIKON_RENDERS === 'record';

const FRAMES = 9600;
const noise = new Noise(26);
const left = sine(220, 48000, FRAMES, 0.3).map((sample, n) => sample + (n % 3000 < 900 ? 0.2 * noise.white() : 0));
const right = left.map((sample, n) => 0.6 * sample + 0.1 * Math.sin(n / 40));

/** A fifth of a second at some values; halfway the first of its main controls moves to the middle of its range. */
function rendered(spec: EffectSpec, values: ParameterValues): Float32Array[] {
  const kernel = kernelOf(spec.id, values);
  if (spec.playsNotes) kernel.handleEvent?.({ kind: 'noteOn', key: 57, velocity: 0.8 }, 0);
  const moved = spec.parameters.find(({ id, kind }) => kind === 'number' && spec.main.includes(id));
  const out = run(kernel, left, right, [128], (frame) => {
    if (frame === 4864 && moved?.kind === 'number') setValue(kernel, spec.id, moved.id, (moved.min + moved.max) / 2);
  });
  freeKernels();
  return [out.left, out.right];
}

function hashOf(spec: EffectSpec): string {
  const hash = createHash('sha256');
  // Preparing takes seconds.
  const presets = spec.prepares ? spec.presets.slice(0, 2) : spec.presets;
  for (const values of [{}, ...presets.map((preset) => preset.values)]) {
    for (const side of rendered(spec, values)) hash.update(new Uint8Array(side.buffer));
  }
  return hash.digest('hex').slice(0, 32);
}

test.each(EFFECTS.map((spec) => [spec.id, spec] as const))(
  '%s gives the bits of its version: raise it in the spec where they are meant to be others',
  (id, spec) => {
    const file = `src/core/effects/${id}/render.json`;
    const now = { version: spec.version ?? 1, hash: hashOf(spec) };
    const known = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as typeof now) : null;
    if (RECORDS && known?.version !== now.version) {
      writeFileSync(file, `${JSON.stringify(now)}\n`);
      return;
    }
    expect(now).toEqual(known);
  },
);
