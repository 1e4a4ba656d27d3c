/** Messages of Yup about invalid data, worded for the person whose file or request it is. */
import { setLocale } from 'yup';
import { quoted } from './text';

const shown = (value: unknown): string => quoted(typeof value === 'string' ? JSON.stringify(value) : value);
/** The root has no name of its own. */
const named = (path: string | undefined) => path !== undefined && path !== '' && path !== 'this';
const it = (path: string | undefined) => (named(path) ? path : 'it');

const KINDS: Record<string, string> = {
  string: 'text',
  number: 'a number',
  boolean: 'on or off',
  array: 'a list',
  object: 'a record',
};

setLocale({
  mixed: {
    required: ({ path }) => `${it(path)} is missing`,
    defined: ({ path }) => `${it(path)} is missing`,
    notNull: ({ path }) => `${it(path)} is missing`,
    oneOf: ({ path, values, value }) => `${it(path)} takes ${values}, not ${shown(value)}`,
    notOneOf: ({ path, value }) => `${it(path)} cannot be ${shown(value)}`,
    notType: ({ path, type, value }) => `${it(path)} takes ${KINDS[type] ?? type}, not ${shown(value)}`,
  },
  string: {
    min: ({ path, min }) => `${it(path)} takes ${min} letters or more`,
    max: ({ path, max }) => `${it(path)} takes ${max} letters at most`,
    uuid: ({ path }) => `${it(path)} is no id`,
    trim: ({ path }) => `${it(path)} must not begin or end with a space`,
  },
  number: {
    min: ({ path, min, value }) => `${it(path)} takes ${min} or more, not ${shown(value)}`,
    max: ({ path, max, value }) => `${it(path)} takes ${max} at most, not ${shown(value)}`,
    integer: ({ path, value }) => `${it(path)} takes a whole number, not ${shown(value)}`,
  },
  array: {
    min: ({ path, min }) => `${it(path)} takes ${min} or more`,
    max: ({ path, max }) => `${it(path)} takes ${max} at most`,
  },
  object: {
    noUnknown: ({ path, unknown }) =>
      `there is nothing called ${quoted(String(unknown))}${named(path) ? ` in ${path}` : ''} that could be set`,
  },
});
