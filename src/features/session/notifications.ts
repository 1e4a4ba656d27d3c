import { KinetikonError, messageOf } from '@/core/errors';

/** Something the user should read: what happened, what was kept, what to do. */
export interface Notification {
  readonly id: number;
  readonly message: string;
  readonly kept: string | undefined;
  readonly next: string | undefined;
  /** The matter it is about: the message leaves when that is settled. */
  readonly topic: string | undefined;
  readonly offer: Offer | undefined;
}

/** What can be done about it with a press. */
export interface Offer {
  readonly label: string;
  readonly act: () => void;
}

let lastId = 0;

export function errorNotification(error: unknown, topic?: string, offer?: Offer): Notification {
  const known = error instanceof KinetikonError ? error : null;
  return { id: ++lastId, message: messageOf(error), kept: known?.kept, next: known?.next, topic, offer };
}

/** The message of an error and what to do next, in one line. */
export function errorText(error: unknown): string {
  const next = error instanceof KinetikonError ? error.next : undefined;
  return next === undefined ? messageOf(error) : `${messageOf(error)} ${next}`;
}
