import { measureLevels } from '@/core/analysis/levels';
import { runJob } from '@/core/jobs/jobs';
import type { SharedSamples, Task } from '@/core/jobs/kinds';
import { renderWork, type RenderRequest, type RenderWork } from '@/core/session/renderRequests';
import { DecodedSounds } from './decodedSounds';
import type { FileOf, Rendered } from './renderMessages';

/** Part of the progress that decoding takes. */
const DECODING = 0.1;

/**
 * Compiles a request and runs it.
 * @param fileOf asked for the sounds that the request names
 * @param onProgress from 0 to 1; what it throws ends the work
 * @param decoded sounds of earlier requests
 * @throws KinetikonError as the jobs do, and what `fileOf` throws
 */
export async function runRequest(
  request: RenderRequest,
  fileOf: FileOf,
  onProgress: (done: number) => void = () => {},
  decoded = new DecodedSounds(),
): Promise<Rendered> {
  const work = renderWork(request);
  const samples: SharedSamples[] = [];
  for (const [n, soundId] of work.soundIds.entries()) {
    samples.push(await decoded.of(soundId, work.sampleRateHz, fileOf));
    onProgress((DECODING * (n + 1)) / work.soundIds.length);
  }
  const result = await runJob(taskOf(work, samples), (step) => {
    if (typeof step === 'number') onProgress(DECODING + (1 - DECODING) * step);
  });
  if (!('bytes' in result)) return { facts: result as Rendered['facts'], bytes: null };
  const { bytes, ...facts } = result as { bytes: Uint8Array } & Record<string, unknown>;
  // Samples of an impulse are in its file.
  if (request.kind === 'impulse') return { facts: { sampleRateHz: request.sampleRateHz }, bytes };
  const before = request.kind === 'chain' ? { before: levelsOf(samples[0]!, work.sampleRateHz) } : {};
  return { facts: { ...facts, ...before } as unknown as Rendered['facts'], bytes };
}

const levelsOf = ({ left, right }: SharedSamples, sampleRateHz: number) =>
  measureLevels({ sampleRateHz, channels: left === right ? [left] : [left, right] });

function taskOf({ task }: RenderWork, samples: readonly SharedSamples[]): Task {
  switch (task.kind) {
    case 'impulse':
      return task;
    case 'match': {
      const { shippedId, sampleRateHz } = task;
      return { kind: 'match', impulse: shippedId === null ? samples[0]! : { shippedId }, sampleRateHz };
    }
    default:
      return { ...task, samples };
  }
}
