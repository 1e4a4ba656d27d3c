import { chainEchogram, lineEchograms } from '@/core/analysis/echogram';
import { resampledLength, resampleStretch } from '@/core/dsp/resampler';
import { clippingOf } from '@/core/analysis/clipping';
import { measureLevels } from '@/core/analysis/levels';
import { integratedLoudness } from '@/core/analysis/loudness';
import { findPhrases } from '@/core/analysis/phrases';
import { computePicture } from '@/core/analysis/pictures';
import { renderInSteps, type RenderRange } from '@/core/engine/render';
import type { Plan, Samples } from '@/core/engine/plan';
import { dbToGain } from '@/core/math/elementary';
import { KinetikonError, messageOf } from '@/core/errors';
import { writeFlac } from '@/core/formats/flac';
import { readSound } from '@/core/formats/readSound';
import { stereoOf } from '@/core/formats/sound';
import { writeWav } from '@/core/formats/wav';
import type { FromWorker, SharedSamples, ToWorker, WorkerResults, WorkerTask } from '@/core/protocol/worker';

/** Requests given up while they run; work looks here between its steps. */
const cancelled = new Set<number>();

const send = (message: FromWorker, transfer: Transferable[] = []) => self.postMessage(message, { transfer });

/** Lets messages in, such as a cancellation. */
const breathe = () => new Promise<void>((resolve) => setTimeout(resolve, 0));

function stopIfCancelled(id: number): void {
  if (cancelled.has(id)) throw new KinetikonError('work.cancelled', 'Cancelled.', { kept: 'Nothing was changed.' });
}

const shared = (frames: number) => new Float32Array(new SharedArrayBuffer(frames * 4));

/** Frames of a sound that are worked out at a time. */
const STRETCH = 65536;

/** Sounds are decoded one after the other, so that the first is there first. */
let decoding: Promise<unknown> = Promise.resolve();

async function decode(id: number, task: Extract<WorkerTask, { kind: 'decode' }>): Promise<WorkerResults['decode']> {
  const sound = await readSound(new Uint8Array(task.bytes), task.name);
  await breathe();
  stopIfCancelled(id);
  const from = stereoOf(sound);
  const { sampleRateHz } = task;
  const length = resampledLength(from.left.length, sound.sampleRateHz, sampleRateHz);
  const left = shared(length);
  const mono = from.left === from.right;
  const right = mono ? left : shared(length);
  send({ id, kind: 'begun', left, right });
  for (let at = 0; at < length; at += STRETCH) {
    const end = Math.min(length, at + STRETCH);
    resampleStretch(from.left, sound.sampleRateHz, sampleRateHz, left, at, end);
    if (!mono) resampleStretch(from.right, sound.sampleRateHz, sampleRateHz, right, at, end);
    send({ id, kind: 'progress', done: end / length });
    await breathe();
    stopIfCancelled(id);
  }
  return {
    left,
    right,
    originalFrames: from.left.length,
    originalRateHz: sound.sampleRateHz,
    channels: sound.channels.length,
  };
}

/** Works in steps between which cancellations come in; what the work holds is given back in any case. */
async function finish<T>(id: number, steps: Generator<number, T>, report?: (done: number) => void): Promise<T> {
  try {
    for (;;) {
      const step = steps.next();
      if (step.done) return step.value;
      report?.(step.value);
      await breathe();
      stopIfCancelled(id);
    }
  } finally {
    steps.return(undefined as T);
  }
}

async function render(
  id: number,
  task: { plan: Plan; samples: readonly SharedSamples[]; range: RenderRange },
  from: number,
  part: number,
): Promise<Samples> {
  const samples = new Map<string, Samples>(task.samples.map(({ assetId, left, right }) => [assetId, { left, right }]));
  return finish(id, renderInSteps(task.plan, samples, task.range), (done) =>
    send({ id, kind: 'progress', done: from + done * part }),
  );
}

async function bounce(id: number, task: Extract<WorkerTask, { kind: 'bounce' }>): Promise<WorkerResults['bounce']> {
  const out = await render(id, task, 0, 0.9);
  if (task.gainDb !== 0) {
    const gain = dbToGain(task.gainDb);
    for (const channel of [out.left, out.right]) for (let i = 0; i < channel.length; i++) channel[i]! *= gain;
  }
  const sound = { sampleRateHz: task.plan.sampleRate, channels: [out.left, out.right] };
  const bytes = task.format === 'flac' ? await writeFlac(sound, 24) : writeWav(sound, task.format);
  await breathe();
  stopIfCancelled(id);
  send({ id, kind: 'progress', done: 0.95 });
  const levels = measureLevels(sound);
  const clipped = task.format === '32f' ? 0 : clippingOf(sound.channels).samples;
  return { bytes, seconds: out.left.length / task.plan.sampleRate, levels, clipped };
}

async function loudness(
  id: number,
  task: Extract<WorkerTask, { kind: 'loudness' }>,
): Promise<WorkerResults['loudness']> {
  const all: (number | null)[] = [];
  for (const [index, plan] of task.plans.entries()) {
    const share = 1 / task.plans.length;
    const out = await render(id, { ...task, plan }, index * share, share);
    const lufs = integratedLoudness([out.left, out.right], plan.sampleRate);
    all.push(Number.isFinite(lufs) ? lufs : null);
  }
  return all;
}

async function echogram(
  id: number,
  task: Extract<WorkerTask, { kind: 'echogram' }>,
): Promise<WorkerResults['echogram']> {
  const { inserts, sampleRateHz, seconds, slots } = task;
  await breathe();
  stopIfCancelled(id);
  return finish(
    id,
    task.apart
      ? lineEchograms(inserts[0]!, sampleRateHz, seconds, slots)
      : chainEchogram(inserts, sampleRateHz, seconds, slots),
  );
}

async function run(id: number, task: WorkerTask): Promise<void> {
  switch (task.kind) {
    case 'decode': {
      const mine = decoding.then(() => decode(id, task));
      decoding = mine.catch(() => undefined);
      return send({ id, kind: 'result', result: await mine });
    }
    case 'echogram': {
      return send({ id, kind: 'result', result: await echogram(id, task) });
    }
    case 'picture': {
      await breathe();
      stopIfCancelled(id);
      const result = computePicture(task.picture, task.inserts, task.sampleRateHz, task.seconds);
      return send({ id, kind: 'result', result });
    }
    case 'print': {
      const { left, right } = await render(id, task, 0, 1);
      const bytes = writeWav({ sampleRateHz: task.plan.sampleRate, channels: [left, right] }, '32f');
      return send({ id, kind: 'result', result: { bytes } }, [bytes.buffer as ArrayBuffer]);
    }
    case 'loudness':
      return send({ id, kind: 'result', result: await loudness(id, task) });
    case 'phrases': {
      const { left, right } = await render(id, task, 0, 1);
      return send({ id, kind: 'result', result: findPhrases(left, right, task.plan.sampleRate) });
    }
    case 'bounce': {
      const result = await bounce(id, task);
      return send({ id, kind: 'result', result }, [result.bytes.buffer as ArrayBuffer]);
    }
  }
}

self.onmessage = async ({ data }: MessageEvent<ToWorker>) => {
  if ('cancel' in data) {
    cancelled.add(data.id);
    return;
  }
  try {
    stopIfCancelled(data.id);
    await run(data.id, data.task);
  } catch (error) {
    const known = error instanceof KinetikonError ? error : null;
    send({
      id: data.id,
      kind: 'error',
      code: known?.code ?? 'unexpected',
      message: messageOf(error),
      kept: known?.kept,
      next: known?.next,
    });
  } finally {
    cancelled.delete(data.id);
  }
};
