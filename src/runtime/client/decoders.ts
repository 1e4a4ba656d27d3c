import { WorkerClient } from './workerClient';

/** Sounds that are decoded at a time. */
const COUNT = 2;

let ready: readonly WorkerClient[] | null = null;

function begun(): readonly WorkerClient[] {
  const workers = Array.from({ length: COUNT }, () => new WorkerClient());
  for (const worker of workers) worker.warmUp();
  return workers;
}

/** Loads workers that decode, for the session that is opened next. */
export function prepareDecoders(): void {
  ready ??= begun();
}

/** Workers that decode, which belong to whoever takes them. */
export function takeDecoders(): readonly WorkerClient[] {
  const taken = ready ?? begun();
  ready = null;
  return taken;
}
