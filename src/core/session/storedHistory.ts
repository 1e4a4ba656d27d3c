import * as yup from 'yup';
import { KinetikonError } from '../errors';
import type { Step } from './commands';
import { NAME_LENGTH } from './nameLength';
import { id, shortText } from './fields';
import { COLLECTIONS } from './records/document';
import { pointSchema } from './records/lanes';

/**
 * Steps that can be taken back and steps that can be done again, newest last. Steps are numbered from the beginning of
 * the session on and stored one by one.
 */
export interface History {
  readonly past: readonly Step[];
  readonly future: readonly Step[];
  /** Number of the first step of `past`: how many before it are not kept any more. */
  readonly base: number;
}

export const EMPTY_HISTORY: History = { past: [], future: [], base: 0 };

/** Steps kept. */
export const HISTORY_LENGTH = 200;

/** A change of a stored history. */
export interface HistoryChange {
  /** Stored steps before this number stay. */
  readonly keep: number;
  /** Steps from there on. */
  readonly append: readonly Step[];
  /** Number of the first step that is kept at all. */
  readonly first: number;
  /** Steps before this number are those that can be taken back. */
  readonly cursor: number;
}

/** Largest signed 32-bit number. */
export const MOST_COUNT = 2 ** 31 - 1;

const PLACES: readonly string[] = ['session', 'main', ...COLLECTIONS];
/** Longest key in a path: ids, names of fields, ids of parameters. */
const KEY_LENGTH = 80;
const isKey = (part: string) => part.length <= KEY_LENGTH && !(part in Object.prototype);
const isPlace = (part: unknown) => Number.isSafeInteger(part) && Number(part) >= 0;
/** Longest path of a patch. */
const DEEPEST = 12;

const pathSchema = yup
  .array(yup.mixed<string | number>().required())
  .strict()
  .required()
  .min(1)
  .max(DEEPEST)
  .test(
    'place',
    'a change must lie inside a session',
    (path) =>
      PLACES.includes(String(path[0])) &&
      path.every((part) => (typeof part === 'string' ? isKey(part) : isPlace(part))),
  );

const patchSchema = yup
  .object({
    op: yup.string().strict().required().oneOf(['add', 'replace', 'remove']),
    path: pathSchema,
    value: yup.mixed().nullable().optional(),
  })
  .noUnknown()
  .strict();

/** A count that a database's 32-bit column takes. */
export const count = () => yup.number().strict().required().integer().min(0).max(MOST_COUNT);

const pointsChangeSchema = yup
  .object({
    op: yup.string().strict().required().oneOf(['points']),
    laneId: id(),
    at: count(),
    remove: count(),
    insert: yup.array(pointSchema).strict().required().max(20000),
  })
  .noUnknown()
  .strict();

/** The changes of a step or a save as they come from outside. What they lead to is checked when they are made. */
export const changesSchema = yup
  .array(
    yup.lazy((change: unknown) =>
      (change as { op?: unknown } | null)?.op === 'points' ? pointsChangeSchema.required() : patchSchema.required(),
    ),
  )
  .strict()
  .required();

/** A step as it comes from outside. What it leads to is checked when it is applied. */
export const stepSchema = yup
  .object({
    label: shortText(2 * NAME_LENGTH).defined(),
    forward: changesSchema,
    inverse: changesSchema,
  })
  .noUnknown()
  .strict()
  .required();

/**
 * Checks a history that comes from outside.
 * @throws KinetikonError session.invalid
 */
export function validateHistory(value: unknown): History {
  const schema = yup
    .object({
      past: yup.array(stepSchema).strict().required().max(HISTORY_LENGTH),
      future: yup.array(stepSchema).strict().required().max(HISTORY_LENGTH),
      base: count(),
    })
    .noUnknown()
    .strict()
    .required();
  try {
    return schema.validateSync(value, { strict: true }) as unknown as History;
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    throw new KinetikonError('session.invalid', `The steps of this session are damaged: ${error.errors[0]}.`, {
      kept: 'Nothing was changed.',
      cause: error,
    });
  }
}
