import { EventEmitter } from 'node:events';
import { and, asc, desc, eq } from 'drizzle-orm';
import { RENDER_VERSIONS } from '@/core/session/renderRequests';
import type { Database, Work } from '../db/database';
import { renders } from '../db/schema';
import type { RenderQueue, Taken } from './renderQueue';

/** The queue of a single desk: the table of renders itself, which one process owns. */
export class TableQueue implements RenderQueue {
  readonly isShared = false;
  private readonly events = new EventEmitter();

  constructor(private readonly db: Database) {}

  async send(): Promise<void> {
    // Once the transaction has ended.
    setTimeout(() => this.events.emit('work'));
  }

  async take(work: Work): Promise<Taken | null> {
    const { engine, document } = RENDER_VERSIONS;
    const [next] = await work
      .select({ renderId: renders.id })
      .from(renders)
      .where(
        and(eq(renders.state, 'waiting'), eq(renders.engineVersion, engine), eq(renders.documentVersion, document)),
      )
      .orderBy(desc(renders.priority), asc(renders.createdAt))
      .limit(1);
    return next ? { renderId: next.renderId, queueJob: null } : null;
  }

  async end(): Promise<void> {}

  async giveBack(): Promise<void> {
    await this.send();
  }

  async listen(onWork: () => void): Promise<() => Promise<void>> {
    this.events.on('work', onWork);
    return async () => void this.events.off('work', onWork);
  }

  async works(): Promise<boolean> {
    await this.db.select({ id: renders.id }).from(renders).limit(1);
    return true;
  }

  async close(): Promise<void> {
    this.events.removeAllListeners();
  }
}
