/** A record or a whole document of an older version. */
export type Old = Record<string, unknown>;

/** Records by id, each changed. */
export const each = (records: unknown, change: (one: Old) => Old): Old =>
  Object.fromEntries(Object.entries((records ?? {}) as Record<string, Old>).map(([id, one]) => [id, change(one)]));
