import { KinetikonError, messageOf, type ErrorCode } from '../errors';

/** An error as it travels between threads, which keep no classes. */
export interface SentError {
  readonly code: ErrorCode | 'unexpected';
  readonly message: string;
  readonly kept: string | undefined;
  readonly next: string | undefined;
}

export function sentError(error: unknown): SentError {
  const known = error instanceof KinetikonError ? error : null;
  return { code: known?.code ?? 'unexpected', message: messageOf(error), kept: known?.kept, next: known?.next };
}

/** The error that was sent: a programmer's mistake is a plain one. */
export const receivedError = ({ code, message, kept, next }: SentError): Error =>
  code === 'unexpected' ? new Error(message) : new KinetikonError(code, message, { kept, next });
