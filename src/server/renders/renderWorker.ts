import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { isCancelled, KinetikonError, messageOf } from '@/core/errors';
import type { Database } from '../db/database';
import { log } from '../log';
import { assetFile, findAsset } from '../repositories/assets';
import {
  beat,
  beginRender,
  buryWorkers,
  failRender,
  finishRender,
  giveBackAll,
  leave,
  tellProgress,
  type Begun,
  type WorkerIdentity,
} from '../repositories/renders';
import { queueOf } from './renderQueue';
import type { FileOf } from './renderMessages';
import { RenderThread } from './threads';

const BEAT_MS = 2000;
/** Net under the queue's own call. */
const POLL_MS = 3000;
const TELL_MS = 500;

/** Takes renders from the queue of a database and runs a number of them at once, each in a thread of its own. */
export class RenderWorker {
  readonly identity: WorkerIdentity = { id: randomUUID(), machine: hostname() };
  private readonly idle: RenderThread[];
  private readonly running = new Map<string, { readonly work: Promise<void>; readonly cancel: () => void }>();
  private timers: NodeJS.Timeout[] = [];
  private stopListening: () => Promise<void> = async () => {};
  private isTaking = false;
  private isCalled = false;
  private isStopped = false;

  /** @param jobs renders at once */
  constructor(
    private readonly db: Database,
    private readonly jobs: number,
  ) {
    this.idle = Array.from({ length: jobs }, () => new RenderThread());
  }

  async start(): Promise<void> {
    const queue = queueOf(this.db);
    const often = (work: () => Promise<unknown>, ms: number) =>
      setInterval(() => {
        work().catch((error: unknown) => log('worker.failed', { message: messageOf(error) }));
      }, ms);
    if (queue.isShared) {
      await beat(this.db, this.identity, this.jobs);
      this.timers = [
        often(() => beat(this.db, this.identity, this.jobs), BEAT_MS),
        often(() => buryWorkers(this.db), BEAT_MS),
        often(() => this.take(), POLL_MS),
      ];
    } else await giveBackAll(this.db);
    this.stopListening = await queue.listen(() => void this.take());
    log('worker.ready', { jobs: this.jobs, machine: this.identity.machine });
    await this.take();
  }

  /** Takes as many renders as there are threads free. */
  private async take(): Promise<void> {
    this.isCalled = true;
    if (this.isTaking) return;
    this.isTaking = true;
    try {
      while (this.isCalled) {
        this.isCalled = false;
        while (this.idle.length > 0 && !this.isStopped) {
          const begun = await beginRender(this.db, this.identity);
          if (!begun) break;
          this.begin(begun);
        }
      }
    } catch (error) {
      log('worker.failed', { message: messageOf(error) });
    } finally {
      this.isTaking = false;
    }
  }

  private begin(render: Begun): void {
    const thread = this.idle.pop()!;
    const controller = new AbortController();
    const work = this.run(render, thread, controller)
      .catch((error: unknown) => log('render.failed', { id: render.id, message: messageOf(error) }))
      .finally(() => {
        this.idle.push(thread);
        this.running.delete(render.id);
        if (!this.isStopped) void this.take();
      });
    this.running.set(render.id, { work, cancel: () => controller.abort() });
  }

  private async run(render: Begun, thread: RenderThread, controller: AbortController): Promise<void> {
    const began = Date.now();
    const folder = await mkdtemp(join(tmpdir(), 'kinetikon-render-'));
    const output = join(folder, 'sound');
    let told = 0;
    // Whoever cancels a render, or has taken it over, is heard of here.
    const tell = async (progress: number) => {
      if (!(await tellProgress(this.db, render, progress))) controller.abort();
    };
    let newest = 0;
    const watch = setInterval(() => void tell(newest).catch(() => undefined), BEAT_MS);
    try {
      const onProgress = (done: number) => {
        newest = done;
        if (Date.now() - told < TELL_MS) return;
        told = Date.now();
        tell(done).catch(() => undefined);
      };
      const { facts, bytes } = await thread.run(render.request, filesFrom(this.db, render.name), {
        signal: controller.signal,
        onProgress,
        output,
      });
      const file = bytes === null ? null : { bytes, body: createReadStream(output) };
      const isKept = await finishRender(this.db, render, facts, file);
      log('render.done', { id: render.id, kind: render.request.kind, ms: Date.now() - began, isKept });
    } catch (error) {
      if (!isCancelled(error)) await failRender(this.db, render, error);
      log('render.ended', { id: render.id, kind: render.request.kind, message: messageOf(error) });
    } finally {
      clearInterval(watch);
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** Ends at once; what is under way goes back to the queue. */
  async stop(): Promise<void> {
    this.isStopped = true;
    for (const timer of this.timers) clearInterval(timer);
    await this.stopListening();
    await leave(this.db, this.identity);
    for (const { cancel } of this.running.values()) cancel();
    await Promise.all([...this.running.values()].map(({ work }) => work));
    for (const thread of this.idle) thread.close();
  }
}

/** Files of sounds as a database has them, for the render of a name. */
function filesFrom(db: Database, name: string): FileOf {
  return async (id) => {
    const asset = await findAsset(db, id).catch((error: unknown) => {
      throw new KinetikonError('asset.missing', `A sound of ${name} is not there.`, { cause: error });
    });
    return assetFile(db, asset);
  };
}
