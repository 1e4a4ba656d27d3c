'use client';

import { Noise } from '@/core/dsp/noise';
import { QUALITIES } from '@/core/effects/reverb/spec';
import type { PlanInsert } from '@/core/engine/plan';
import { chainPlan } from '@/core/engine/plans';
import { compileInserts } from '@/core/session/compile/inserts';
import type { Insert } from '@/core/session/records/inserts';
import type { WorkerClient } from '@/runtime/client/workerClient';
import type { Studio } from '../../session/studio';
import { useStudio } from '../../session/StudioContext';
import { useWork } from '../../session/useWork';

/** Seconds of noise that are rendered: what the longer one takes more is what sounding costs. */
const SHORT = 0.5;
const LONG = 2.5;
const ROUNDS = 4;
/** Less of a core than this is not told apart from none: what travels to a worker and back takes as long. */
const LEAST_TOLD = 0.01;

/** Part of one core's time that an effect takes here while it sounds. */
async function loadOf(
  worker: WorkerClient,
  insert: PlanInsert,
  sampleRate: number,
  signal: AbortSignal,
): Promise<number> {
  const noise = new Noise(1);
  const sound = Float32Array.from({ length: LONG * sampleRate }, () => 0.1 * noise.white());
  const { plan, samples } = chainPlan([insert], sampleRate, { left: sound, right: sound });
  const sounds = [...samples].map(([assetId, one]) => ({ assetId, ...one }));
  const time = async (seconds: number) => {
    const range = { fromFrame: 0, toFrame: Math.round(seconds * sampleRate), tailSeconds: 0 };
    const began = performance.now();
    await worker.run({ kind: 'render', plan, samples: sounds, range }, { signal });
    return performance.now() - began;
  };
  const short = await time(SHORT);
  return Math.max(0, (await time(LONG)) - short) / 1000 / (LONG - SHORT);
}

/** The load of an effect at each quality, of one core from 0 to 1. */
async function measureLoads(studio: Studio, insert: Insert, signal: AbortSignal): Promise<readonly number[]> {
  const { document } = studio.state;
  const variants = QUALITIES.map(({ id: quality }) => {
    const inserts = { ...document.inserts, [insert.id]: { ...insert, values: { ...insert.values, quality } } };
    return compileInserts({ ...document, inserts, lanes: {}, modulators: {} }, [insert.id])[0]!;
  });
  const least = variants.map(() => Infinity);
  // The least of some rounds: at first the code is not compiled yet, and other work uses the machine too.
  for (let round = 0; round < ROUNDS; round++) {
    for (const [n, variant] of variants.entries()) {
      const load = await loadOf(studio.renderer, variant, document.session.sampleRateHz, signal);
      least[n] = Math.min(least[n]!, load);
    }
  }
  return least;
}

/** Measured loads by session. */
const known = new WeakMap<Studio, readonly number[]>();

/** Load of each quality on this machine, measured when the view is first opened. */
export function QualityLoads({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const measured = useWork('quality loads', async (signal) => {
    const loads = known.get(studio) ?? (await measureLoads(studio, insert, signal));
    known.set(studio, loads);
    return loads;
  });
  const loads = measured ?? [];
  const words = loads.map((load, n) => {
    const { name } = QUALITIES[n]!;
    return `${name.toLowerCase()} ${load < LEAST_TOLD ? `under ${100 * LEAST_TOLD} %` : `${Math.round(100 * load)} %`}`;
  });
  return (
    <p className="quality-loads" role="status">
      Quality, of one core: {words.length === 0 ? 'measuring …' : words.join(', ')}
    </p>
  );
}
