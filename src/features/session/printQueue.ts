import { KinetikonError } from '@/core/errors';
import type { SharedSamples } from '@/core/jobs/kinds';
import type { Command } from '@/core/session/commands';
import { channelOf, type Asset, type Print, type SessionDocument } from '@/core/session/records';
import { isFresh, printsBehind, printWork } from '@/core/session/printing';
import type { WorkerClient } from '@/runtime/client/workerClient';
import type { StudioState } from './state';

/** `failed` is about what it would be made of now; when that changes it counts as stale. */
export type PrintState = 'fresh' | 'stale' | 'computing' | 'failed';

/** How a print is doing. */
export function printState(
  { document, printing, failedPrints }: Pick<StudioState, 'document' | 'printing' | 'failedPrints'>,
  printId: string,
): PrintState {
  if (printing.includes(printId)) return 'computing';
  const print = document.prints[printId]!;
  const { fingerprint } = printWork(document, print);
  if (print.made?.fingerprint === fingerprint) return 'fresh';
  return failedPrints[printId] === fingerprint ? 'failed' : 'stale';
}

/** What the queue needs of an open session. */
export interface PrintHost {
  readonly state: StudioState;
  readonly renderer: Pick<WorkerClient, 'run'>;
  set(part: Partial<StudioState>): void;
  startJob(label: string): { signal: AbortSignal; progress: (done: number) => void; end: () => void };
  allSamples(signal: AbortSignal): Promise<SharedSamples[]>;
  takeIn(file: File, signal: AbortSignal, onProgress: (done: number) => void): Promise<Asset>;
  report(error: unknown): void;
  record(command: Command): void;
}

function printName(document: SessionDocument, { recipe }: Pick<Print, 'recipe'>): string {
  return `${channelOf(document, recipe.stripId)?.name ?? 'Strip'}, frozen`;
}

/** Makes prints anew, one after the other, each after those that are part of it. */
export class PrintQueue {
  private last: Promise<void> = Promise.resolve();

  constructor(private readonly host: PrintHost) {}

  /** What comes of it is no step that could be undone: the recipe stays what it was. */
  renew(printId: string): Promise<void> {
    this.last = this.last.then(() => this.make(printId, new Set()));
    return this.last;
  }

  /** @param seen prints under way above this one */
  private async make(printId: string, seen: ReadonlySet<string>): Promise<void> {
    const { host } = this;
    const print = host.state.document.prints[printId];
    if (!print || seen.has(printId)) return;
    for (const id of printsBehind(host.state.document, print)) await this.make(id, new Set([...seen, printId]));
    if (isFresh(host.state.document, print)) return;
    const done = await this.render(print, `Printing ${printName(host.state.document, print)}`);
    if (!done || !host.state.document.prints[printId]) return;
    const { asset, made } = done;
    host.record({
      type: 'all',
      commands: [
        { type: 'asset.add', asset: { ...asset } },
        { type: 'print.made', id: printId, made },
      ],
    });
  }

  /** Renders a print and takes its sound in; null when that failed, which is said. */
  async render(
    print: Pick<Print, 'id' | 'recipe'>,
    label: string,
  ): Promise<{ asset: Asset; made: NonNullable<Print['made']> } | null> {
    const { plan, fingerprint } = printWork(this.host.state.document, print);
    const job = this.host.startJob(label);
    this.host.set({ printing: [...this.host.state.printing, print.id] });
    try {
      const samples = await this.host.allSamples(job.signal);
      const range = { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 'auto' as const };
      const { bytes } = await this.host.renderer.run(
        { kind: 'print', plan, samples, range },
        { signal: job.signal, onProgress: (done) => job.progress(done * 0.6) },
      );
      const file = new File([bytes as Uint8Array<ArrayBuffer>], `${printName(this.host.state.document, print)}.wav`, {
        type: 'audio/wav',
      });
      const asset = await this.host.takeIn(file, job.signal, (done) => job.progress(0.6 + done * 0.4));
      return { asset, made: { assetId: asset.id, fingerprint } };
    } catch (error) {
      // What somebody gave up is still to be made; it has not failed.
      const cancelled = error instanceof KinetikonError && error.code === 'work.cancelled';
      if (!cancelled) this.host.set({ failedPrints: { ...this.host.state.failedPrints, [print.id]: fingerprint } });
      this.host.report(error);
      return null;
    } finally {
      this.host.set({ printing: this.host.state.printing.filter((id) => id !== print.id) });
      job.end();
    }
  }
}
