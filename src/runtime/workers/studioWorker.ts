import { chainEchogram, lineEchograms } from '@/core/analysis/echogram';
import { resample } from '@/core/dsp/resampler';
import { integratedLoudness } from '@/core/analysis/loudness';
import { findPhrases } from '@/core/analysis/phrases';
import { computePicture } from '@/core/analysis/pictures';
import { renderInSteps, type RenderRange } from '@/core/engine/render';
import type { Plan, Samples } from '@/core/engine/plan';
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

function share(samples: Float32Array): Float32Array {
  const shared = new Float32Array(new SharedArrayBuffer(samples.length * 4));
  shared.set(samples);
  return shared;
}

/** Sounds are decoded one after the other, so that the first is there first. */
let decoding: Promise<unknown> = Promise.resolve();

async function decode(id: number, task: Extract<WorkerTask, { kind: 'decode' }>): Promise<WorkerResults['decode']> {
  const sound = await readSound(new Uint8Array(task.bytes), task.name);
  await breathe();
  stopIfCancelled(id);
  const { left, right } = stereoOf(sound);
  const convert = (channel: Float32Array, from: number, part: number) => {
    const done = resample(channel, sound.sampleRateHz, task.sampleRateHz, (progress) => {
      send({ id, kind: 'progress', done: from + progress * part });
      return true;
    });
    return share(done!);
  };
  const mono = left === right;
  const convertedLeft = convert(left, 0, mono ? 1 : 0.5);
  await breathe();
  stopIfCancelled(id);
  return {
    left: convertedLeft,
    right: mono ? convertedLeft : convert(right, 0.5, 0.5),
    originalFrames: left.length,
    originalRateHz: sound.sampleRateHz,
    channels: sound.channels.length,
  };
}

/** Renders a plan in steps between which cancellations come in. */
async function render(
  id: number,
  task: { plan: Plan; samples: readonly SharedSamples[]; range: RenderRange },
  from: number,
  part: number,
): Promise<Samples> {
  const samples = new Map<string, Samples>(task.samples.map(({ assetId, left, right }) => [assetId, { left, right }]));
  const steps = renderInSteps(task.plan, samples, task.range);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    send({ id, kind: 'progress', done: from + step.value * part });
    await breathe();
    stopIfCancelled(id);
  }
}

async function bounce(id: number, task: Extract<WorkerTask, { kind: 'bounce' }>): Promise<WorkerResults['bounce']> {
  const out = await render(id, task, 0, 0.95);
  const sound = { sampleRateHz: task.plan.sampleRate, channels: [out.left, out.right] };
  const bytes = task.format === 'flac' ? await writeFlac(sound, 24) : writeWav(sound, task.format);
  await breathe();
  stopIfCancelled(id);
  return { bytes, seconds: out.left.length / task.plan.sampleRate };
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
  const steps = task.apart
    ? lineEchograms(inserts[0]!, sampleRateHz, seconds, slots)
    : chainEchogram(inserts, sampleRateHz, seconds, slots);
  for (;;) {
    await breathe();
    stopIfCancelled(id);
    const step = steps.next();
    if (step.done) return step.value;
  }
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
