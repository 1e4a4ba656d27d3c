import type { Database, Work } from '../db/database';

/** A render that has been taken out of the queue. */
export interface Taken {
  readonly renderId: string;
  /** The queue's own id of it; null where the table of renders is the queue. */
  readonly queueJob: string | null;
}

/** Order in which renders are taken: what has the highest priority first, the oldest of those that have the same. */
export interface RenderQueue {
  /** True if workers of other processes take from it too: then they write heartbeats. */
  readonly isShared: boolean;
  /** Puts a render in, in the transaction that records it. */
  send(work: Work, renderId: string, priority: number): Promise<void>;
  /** The next render that this version can run; null while there is none. In the transaction that marks it as taken. */
  take(work: Work): Promise<Taken | null>;
  /** A render has ended, in the transaction that records that. */
  end(work: Work, queueJob: string | null): Promise<void>;
  /** A render goes back, to be taken again. */
  giveBack(work: Work, queueJob: string | null): Promise<void>;
  /**
   * Calls back when there may be something to take.
   * @returns a function that ends that
   */
  listen(onWork: () => void): Promise<() => Promise<void>>;
  /** True if renders can be sent and taken now. */
  works(): Promise<boolean>;
  close(): Promise<void>;
}

/** Next loads this module once for each of its bundles; the database object, which they share, has the queue. */
const QUEUE = Symbol.for('kinetikon.renders');

interface WithQueue {
  [QUEUE]?: RenderQueue;
}

/** Gives a database the queue of its renders, once it is open. */
export function setQueue(db: Database, queue: RenderQueue): void {
  (db as WithQueue)[QUEUE] = queue;
}

export function queueOf(db: Database): RenderQueue {
  const queue = (db as WithQueue)[QUEUE];
  if (!queue) throw new Error('this database has no queue of renders');
  return queue;
}
