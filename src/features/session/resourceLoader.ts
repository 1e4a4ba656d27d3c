import type { PlanInsert, Samples } from '@/core/engine/plan';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { WorkerClient } from '@/runtime/client/workerClient';

export interface ResourceHost {
  readonly engine: Pick<EngineClient, 'missingResources' | 'setResource'>;
  readonly worker: Pick<WorkerClient, 'run'>;
  sampleRateHz(): number;
  /** A sound at the session's rate; undefined while it is on its way. */
  soundOf(assetId: string): Samples | undefined;
  /** Effects whose sounds are being prepared, by name of the insert. */
  onWaiting(insertIds: readonly string[]): void;
  onProblem(error: unknown): void;
}

/** Lets be prepared, one after the other, what effects need and the engine has not got. */
export class ResourceLoader {
  private running = false;
  /** Keys of resources that could not be prepared; they are not tried again. */
  private readonly failed = new Set<string>();

  constructor(private readonly host: ResourceHost) {}

  /** Looks what is missing: to be called when a plan has gone out or a sound has come in. */
  async look(): Promise<void> {
    if (this.running) return;
    this.running = true;
    try {
      for (let next; (next = this.next());) await this.prepare(next);
    } finally {
      this.running = false;
    }
  }

  private next(): PlanInsert | undefined {
    const missing = this.host.engine.missingResources();
    this.host.onWaiting(missing.map(({ id }) => id));
    return missing.find(
      ({ resource }) =>
        !this.failed.has(resource!.key) && (resource!.assetId === null || this.host.soundOf(resource!.assetId)),
    );
  }

  private async prepare(insert: PlanInsert): Promise<void> {
    const { key, assetId } = insert.resource!;
    const { worker, engine } = this.host;
    const sampleRateHz = this.host.sampleRateHz();
    const sound = assetId === null ? null : (this.host.soundOf(assetId) ?? null);
    try {
      engine.setResource(key, await worker.run({ kind: 'prepare', insert, sampleRateHz, sound }));
    } catch (error) {
      this.failed.add(key);
      this.host.onProblem(error);
    }
  }
}
