import '../wording';
import * as yup from 'yup';

/** What the records of a session are put together from. */

export const NAME_LENGTH = 120;

export const id = () =>
  yup
    .string()
    .strict()
    .required()
    .max(80)
    .matches(/^[\w-]+$/, '${path} must be an id, not "${value}"');
export const name = () => yup.string().strict().required().min(1).max(NAME_LENGTH);
export const figure = (min: number, max: number) =>
  yup
    .number()
    .strict()
    .required()
    .test({
      name: 'range',
      message: ({ path, value }) => `${path} takes ${min} to ${max}, not ${value}`,
      test: (value) => value >= min && value <= max,
    });
export const flag = () => yup.boolean().strict().required();
export const record = <T extends yup.ObjectShape>(shape: T) => yup.object(shape).noUnknown().strict().required();

export const assetId = () =>
  yup
    .string()
    .strict()
    .required()
    .matches(/^[0-9a-f]{64}$/, '${path} must be a SHA-256 sum');
