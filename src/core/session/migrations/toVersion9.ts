import { eachInsert, type Old } from './each';

/** A vocoder of before had its carrier as it was. */
const withPlainCarrier = (insert: Old): Old =>
  insert.effect === 'vocoder' ? { ...insert, values: { even: 0, ...(insert.values as Old) } } : insert;

/** Version 9 evens the carrier of vocoders. Nothing of version 8 sounds otherwise. */
export const toVersion9 = (old: Old): Old => ({ ...old, ...eachInsert(old, withPlainCarrier), version: 9 });
