import { fingerprint } from '../math/hash';
import { COLLECTIONS, type SessionDocument } from './records/document';

/** JSON with the keys of records in order, so that the same values give the same text wherever they were stored. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join()}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const entries = Object.entries(value).filter(([, one]) => one !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([key, one]) => `${JSON.stringify(key)}:${canonical(one)}`).join()}}`;
}

/** Sums of records by the record: documents share the records that have not changed. */
const sums = new WeakMap<object, string>();

function sumOf(record: object): string {
  let sum = sums.get(record);
  if (sum === undefined) sums.set(record, (sum = fingerprint(canonical(record))));
  return sum;
}

/**
 * A sum over all records of a document, as 16 hexadecimal digits, which tells two documents apart that should be the
 * same. After the first time it costs a look at each record and the sums of those that are new. Records must not be
 * changed in place.
 */
export function documentChecksum(document: SessionDocument): string {
  const parts = [`${document.version} ${sumOf(document.session)} ${sumOf(document.main)}`];
  for (const collection of COLLECTIONS) {
    let high = 0;
    let low = 0;
    for (const record of Object.values(document[collection]) as object[]) {
      const sum = sumOf(record);
      high = (high + Number.parseInt(sum.slice(0, 8), 16)) >>> 0;
      low = (low + Number.parseInt(sum.slice(8), 16)) >>> 0;
    }
    parts.push(`${high} ${low}`);
  }
  return fingerprint(parts.join(';'));
}
