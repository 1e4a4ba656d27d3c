import { KinetikonError, type ErrorCode } from '@/core/errors';

/** True for settled promises that were rejected with an error of a code. */
export const isCode = (code: ErrorCode) => (one: PromiseSettledResult<unknown>) =>
  one.status === 'rejected' && one.reason instanceof KinetikonError && one.reason.code === code;
