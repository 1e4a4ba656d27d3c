import '../yupLocale';
import * as yup from 'yup';
import { NAME_LENGTH } from './nameLength';
import { quoted, textFlaw, textLength } from '../text';

/** Yup fields of the records of a session. */

/** Last beat of a session. */
export const LONGEST_BEATS = 100000;

const ID = /^[\w-]{1,80}$/;

/** True for letters, figures, `_` and `-`, 80 at most. Names that every object has, such as `constructor`, are no ids. */
export const isId = (given: unknown): boolean =>
  typeof given === 'string' && ID.test(given) && !(given in Object.prototype);

export const id = () =>
  yup
    .string()
    .strict()
    .required()
    .test({
      name: 'id',
      message: ({ path, value }) => `${path} must be an id, not "${quoted(value)}"`,
      test: (value) => value === null || isId(value),
    });
/** Text of up to `most` code points that a database can store. */
export const shortText = (most: number) =>
  yup
    .string()
    .strict()
    .test({
      name: 'length',
      message: ({ path }) => `${path} takes ${most} letters at most`,
      test: (value) => value === undefined || textLength(value) <= most,
    })
    .test({
      name: 'characters',
      message: ({ path, value }) => `${path} holds ${textFlaw(String(value))}`,
      test: (value) => value === undefined || textFlaw(value) === undefined,
    });
export const name = () => shortText(NAME_LENGTH).required().min(1);
export const figure = (min: number, max: number) =>
  yup
    .number()
    .strict()
    .required()
    .test({
      name: 'range',
      message: ({ path, value }) => `${path} takes ${min} to ${max}, not ${value}`,
      test: (value) => value === undefined || (value >= min && value <= max),
    });
export const flag = () => yup.boolean().strict().required();
export const record = <T extends yup.ObjectShape>(shape: T) => yup.object(shape).noUnknown().strict().required();

export const assetId = () =>
  yup
    .string()
    .strict()
    .required()
    .matches(/^[0-9a-f]{64}$/, '${path} must be a SHA-256 sum');

/** The field that tells the members of a union apart. */
export const kindField = <K extends string>(value: K) => yup.string<K>().strict().required().oneOf([value]);
