import { sql, type SQL } from 'drizzle-orm';
import { Client, type Pool } from 'pg';
import PgBoss from 'pg-boss';
import { messageOf } from '@/core/errors';
import { RENDER_VERSIONS } from '@/core/session/renderRequests';
import type { Work } from '../db/database';
import { log } from '../log';
import type { RenderQueue, Taken } from './renderQueue';

/** A queue for each pair of versions: workers of another version never see what they cannot run. */
const QUEUE = `renders-${RENDER_VERSIONS.engine}-${RENDER_VERSIONS.document}`;
const CHANNEL = 'kinetikon_renders';
/** More than a render is ever given back. */
const RETRIES = 100;
/** The queue takes a job back by itself after 23 hours; the heartbeats of workers do that within seconds. */
const EXPIRE_SECONDS = 23 * 3600;
const RECONNECT_MS = 2000;

/** A statement of the queue as one of a transaction of ours. */
function statement(text: string, values: readonly unknown[]): SQL {
  const parts = text.split(/\$(\d+)/);
  return sql.join(parts.map((part, n) => (n % 2 === 0 ? sql.raw(part) : sql`${sql.param(values[Number(part) - 1])}`)));
}

/** Lets the queue work within a transaction. */
const within = (work: Work): PgBoss.ConnectionOptions => ({
  db: {
    executeSql: async (text, values) =>
      (await work.execute(statement(text, values ?? []))) as unknown as { rows: unknown[] },
  },
});

/** The queue of a studio, kept in its PostgreSQL server. */
export class BossQueue implements RenderQueue {
  readonly isShared = true;

  private constructor(
    private readonly boss: PgBoss,
    private readonly url: string,
  ) {}

  static async open(pool: Pool, url: string): Promise<BossQueue> {
    const boss = new PgBoss({
      db: { executeSql: (text, values) => pool.query(text, values) },
      schedule: false,
      maintenanceIntervalSeconds: 60,
    });
    boss.on('error', (error) => log('queue.failed', { message: messageOf(error) }));
    await boss.start();
    await boss.createQueue(QUEUE, {
      name: QUEUE,
      retryLimit: RETRIES,
      retryDelay: 0,
      expireInSeconds: EXPIRE_SECONDS,
    });
    return new BossQueue(boss, url);
  }

  async send(work: Work, renderId: string, priority: number): Promise<void> {
    await this.boss.send(QUEUE, { renderId }, { priority, ...within(work) });
    await this.wake(work);
  }

  async take(work: Work): Promise<Taken | null> {
    const options = { batchSize: 1, ...within(work) } as PgBoss.FetchOptions;
    const [job] = await this.boss.fetch<{ renderId: string }>(QUEUE, options);
    return job ? { renderId: job.data.renderId, queueJob: job.id } : null;
  }

  async end(work: Work, queueJob: string | null): Promise<void> {
    if (queueJob === null) return;
    await this.boss.deleteJob(QUEUE, queueJob, within(work));
  }

  async giveBack(work: Work, queueJob: string | null): Promise<void> {
    if (queueJob !== null) await this.boss.fail(QUEUE, queueJob, {}, within(work));
    await this.wake(work);
  }

  /** Workers that listen hear of it once the transaction is committed. */
  private async wake(work: Work): Promise<void> {
    await work.execute(sql`select pg_notify(${CHANNEL}, ${QUEUE})`);
  }

  /** Listens on a connection of its own, and on another when that breaks. */
  async listen(onWork: () => void): Promise<() => Promise<void>> {
    let client: Client | null = null;
    let ended = false;
    let timer: NodeJS.Timeout | undefined;
    const connect = async () => {
      const own = new Client({ connectionString: this.url, application_name: 'kinetikon listener' });
      own.on('notification', ({ payload }) => payload === QUEUE && onWork());
      own.on('error', () => again(own));
      await own.connect();
      await own.query(`listen ${CHANNEL}`);
      client = own;
      if (ended) await own.end();
      else onWork();
    };
    const again = (broken?: Client) => {
      if (ended || (broken && broken !== client)) return;
      client = null;
      broken?.end().catch(() => undefined);
      timer = setTimeout(() => connect().catch(() => again()), RECONNECT_MS);
    };
    await connect();
    return async () => {
      ended = true;
      clearTimeout(timer);
      await client?.end();
    };
  }

  async works(): Promise<boolean> {
    return Boolean(await this.boss.isInstalled());
  }

  async close(): Promise<void> {
    await this.boss.stop({ graceful: false, close: false });
  }
}
