import { inArray } from 'drizzle-orm';
import type { Database } from '../db/database';
import { assets } from '../db/schema';

/** Equal parts that a sound is told by. */
const PARTS = 160;
const MOST_KEPT = 4000;

/** Outlines worked out already: a sound never changes. */
const known = new Map<string, Float32Array>();

/** The loudest of each of some equal parts of a sound, 0 to 1. */
export type Outlines = ReadonlyMap<string, Float32Array>;

/** @param peaks pairs of lowest and highest sample of equal stretches */
function outlineOf(peaks: Uint8Array): Float32Array {
  const signed = new Int8Array(peaks.buffer, peaks.byteOffset, peaks.byteLength);
  const outline = new Float32Array(PARTS);
  for (let n = 0; n < signed.length; n++) {
    const part = Math.min(PARTS - 1, Math.floor((n / signed.length) * PARTS));
    outline[part] = Math.max(outline[part]!, Math.abs(signed[n]!) / 127);
  }
  return outline;
}

/** Outlines of sounds; those that are not there are left out. */
export async function outlinesOf(db: Pick<Database, 'select'>, ids: readonly string[]): Promise<Outlines> {
  const wanted = ids.filter((id) => !known.has(id));
  if (wanted.length > 0) {
    const rows = await db.select({ id: assets.id, peaks: assets.peaks }).from(assets).where(inArray(assets.id, wanted));
    if (known.size + rows.length > MOST_KEPT) known.clear();
    for (const { id, peaks } of rows) known.set(id, outlineOf(peaks));
  }
  return new Map(ids.flatMap((id) => (known.has(id) ? [[id, known.get(id)!] as const] : [])));
}

/** The levels of a stretch of a sound, 0 to 1 from its beginning to its end, as so many digits of base 36. */
export function levelsOf(outline: Float32Array, from: number, to: number, count: number): string {
  const partAt = (n: number) => Math.floor((from + ((to - from) * n) / count) * PARTS + 1e-6);
  return Array.from({ length: count }, (_, n) => {
    const first = Math.min(PARTS - 1, partAt(n));
    const most = Math.max(...outline.subarray(first, Math.max(first + 1, partAt(n + 1))));
    return Math.round(35 * most).toString(36);
  }).join('');
}
