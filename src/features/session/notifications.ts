import { KinetikonError, messageOf } from '@/core/errors';

/** Something the user should read: what happened, what was kept, what to do. */
export interface Notification {
  readonly id: number;
  readonly message: string;
  readonly kept: string | undefined;
  readonly next: string | undefined;
  /** The matter it is about: the message leaves when that is settled. */
  readonly topic: string | undefined;
}

let lastId = 0;

export function errorNotification(error: unknown, topic?: string): Notification {
  const known = error instanceof KinetikonError ? error : null;
  return { id: ++lastId, message: messageOf(error), kept: known?.kept, next: known?.next, topic };
}
